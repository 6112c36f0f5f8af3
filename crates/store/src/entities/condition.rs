use sea_orm::entity::prelude::*;

#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "condition")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: Uuid,
    pub region: String,
    pub name: String,
    pub name_key: String,
    pub setting: String,
    pub pre_test: Option<f64>,
    #[sea_orm(column_type = "JsonBinary")]
    pub prevalence: Json,
    pub must_not_miss: bool,
    pub version: i32,
}

#[derive(Copy, Clone, Debug, EnumIter, DeriveRelation)]
pub enum Relation {}

impl ActiveModelBehavior for ActiveModel {}
