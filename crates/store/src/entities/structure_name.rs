use sea_orm::entity::prelude::*;

#[derive(Clone, Debug, PartialEq, Eq, DeriveEntityModel)]
#[sea_orm(table_name = "structure_name")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub region: String,
    #[sea_orm(primary_key, auto_increment = false)]
    pub key: String,
    pub structure_id: Uuid,
    pub position: i32,
    pub label: String,
}

#[derive(Copy, Clone, Debug, EnumIter, DeriveRelation)]
pub enum Relation {}

impl ActiveModelBehavior for ActiveModel {}
