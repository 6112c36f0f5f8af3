use sea_orm::entity::prelude::*;

#[derive(Clone, Debug, PartialEq, Eq, DeriveEntityModel)]
#[sea_orm(table_name = "account")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: Uuid,
    pub login: String,
    pub name: String,
    pub mail: String,
    pub role: String,
    pub password_hash: Option<String>,
    pub version: i32,
    pub created_at: DateTimeUtc,
    pub disabled_at: Option<DateTimeUtc>,
    pub second_step_secret: Option<Vec<u8>>,
    pub second_step_since: Option<DateTimeUtc>,
    pub second_step_last: i64,
}

#[derive(Copy, Clone, Debug, EnumIter, DeriveRelation)]
pub enum Relation {}

impl ActiveModelBehavior for ActiveModel {}
