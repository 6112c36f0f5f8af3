use sea_orm::entity::prelude::*;

#[derive(Clone, Debug, PartialEq, Eq, DeriveEntityModel)]
#[sea_orm(table_name = "examination_plan")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: Uuid,
    pub region: String,
    pub title_key: String,
    #[sea_orm(column_type = "JsonBinary")]
    pub content: Json,
    /// As it was signed off last.
    #[sea_orm(column_type = "JsonBinary", nullable)]
    pub published: Option<Json>,
    /// Versions of its tests' sheets at that time.
    #[sea_orm(column_type = "JsonBinary")]
    pub sheets: Json,
    pub sample: bool,
    pub status: String,
    pub published_version: Option<i32>,
    pub version: i32,
    pub created_at: DateTimeUtc,
    pub updated_at: DateTimeUtc,
}

#[derive(Copy, Clone, Debug, EnumIter, DeriveRelation)]
pub enum Relation {}

impl ActiveModelBehavior for ActiveModel {}
