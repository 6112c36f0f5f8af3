use sea_orm::entity::prelude::*;

#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "reference")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: Uuid,
    pub doi: Option<String>,
    pub pmid: Option<String>,
    pub title_key: String,
    pub first_author: String,
    pub year: Option<i32>,
    /// Everything that a search looks through, in lower case.
    pub search: String,
    #[sea_orm(column_type = "JsonBinary")]
    pub content: Json,
    pub sample: bool,
    pub version: i32,
    pub created_at: DateTimeUtc,
    pub updated_at: DateTimeUtc,
    pub deleted_at: Option<DateTimeUtc>,
}

#[derive(Copy, Clone, Debug, EnumIter, DeriveRelation)]
pub enum Relation {}

impl ActiveModelBehavior for ActiveModel {}
