use sea_orm::entity::prelude::*;

#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "revision")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub kind: String,
    #[sea_orm(primary_key, auto_increment = false)]
    pub record_id: Uuid,
    #[sea_orm(primary_key, auto_increment = false)]
    pub version: i32,
    /// Rises in the order in which changes become visible.
    pub seq: i64,
    pub action: String,
    pub comment: String,
    #[sea_orm(column_type = "JsonBinary")]
    pub content: Json,
    pub account_id: Option<Uuid>,
    pub at: DateTimeUtc,
}

#[derive(Copy, Clone, Debug, EnumIter, DeriveRelation)]
pub enum Relation {
    #[sea_orm(belongs_to = "super::account::Entity", from = "Column::AccountId", to = "super::account::Column::Id")]
    Account,
}

impl Related<super::account::Entity> for Entity {
    fn to() -> RelationDef {
        Relation::Account.def()
    }
}

impl ActiveModelBehavior for ActiveModel {}
