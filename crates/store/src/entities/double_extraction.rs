use sea_orm::entity::prelude::*;

#[derive(Clone, Debug, PartialEq, Eq, DeriveEntityModel)]
#[sea_orm(table_name = "double_extraction")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: Uuid,
    pub test_id: Uuid,
    pub reference_id: Option<Uuid>,
    #[sea_orm(column_type = "Text")]
    pub reference: String,
    #[sea_orm(column_type = "Text")]
    pub asked: String,
    pub result_id: Option<Uuid>,
    pub decisions: Option<Json>,
    pub settled_by: Option<Uuid>,
    #[sea_orm(column_type = "Text")]
    pub settler: String,
    pub settled_at: Option<DateTimeUtc>,
    pub sample: bool,
    pub created_by: Option<Uuid>,
    pub created_at: DateTimeUtc,
    pub updated_at: DateTimeUtc,
    pub deleted_at: Option<DateTimeUtc>,
}

#[derive(Copy, Clone, Debug, EnumIter, DeriveRelation)]
pub enum Relation {}

impl ActiveModelBehavior for ActiveModel {}
