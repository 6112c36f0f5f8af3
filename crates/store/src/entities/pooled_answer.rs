use chrono::{DateTime, Utc};
use sea_orm::entity::prelude::*;

#[derive(Clone, Debug, PartialEq, Eq, DeriveEntityModel)]
#[sea_orm(table_name = "pooled_answer")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false, column_type = "VarBinary(StringLen::None)")]
    pub asked: Vec<u8>,
    pub engine: String,
    pub answer: String,
    pub made_at: DateTime<Utc>,
}

#[derive(Copy, Clone, Debug, EnumIter, DeriveRelation)]
pub enum Relation {}

impl ActiveModelBehavior for ActiveModel {}
