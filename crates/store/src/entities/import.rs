use sea_orm::entity::prelude::*;

#[derive(Clone, Debug, PartialEq, Eq, DeriveEntityModel)]
#[sea_orm(table_name = "import")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: Uuid,
    pub kind: String,
    pub name: String,
    pub account_id: Option<Uuid>,
    pub at: DateTimeUtc,
    pub first_seq: i64,
    pub last_seq: i64,
    pub brought: Json,
    pub extractions: Json,
    pub taken_back_at: Option<DateTimeUtc>,
    pub taken_back_by: Option<Uuid>,
}

#[derive(Copy, Clone, Debug, EnumIter, DeriveRelation)]
pub enum Relation {}

impl ActiveModelBehavior for ActiveModel {}
