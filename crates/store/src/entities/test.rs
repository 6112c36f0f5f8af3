use sea_orm::FromJsonQueryResult;
use sea_orm::entity::prelude::*;
use serde::{Deserialize, Serialize};

/// A list of texts in a jsonb column.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, FromJsonQueryResult)]
pub struct Texts(pub Vec<String>);

#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "test")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: Uuid,
    pub region: String,
    pub purpose: String,
    pub condition_id: Uuid,
    #[sea_orm(column_type = "JsonBinary")]
    pub target_structures: Texts,
    pub patient_position: String,
    #[sea_orm(column_type = "JsonBinary")]
    pub steps: Texts,
    pub positive_finding: String,
    #[sea_orm(column_type = "JsonBinary")]
    pub cautions: Texts,
    #[sea_orm(column_type = "JsonBinary")]
    pub pitfalls: Texts,
    pub sample: bool,
    pub version: i32,
    pub created_at: DateTimeUtc,
    pub updated_at: DateTimeUtc,
}

#[derive(Copy, Clone, Debug, EnumIter, DeriveRelation)]
pub enum Relation {
    #[sea_orm(
        belongs_to = "super::condition::Entity",
        from = "Column::ConditionId",
        to = "super::condition::Column::Id"
    )]
    Condition,
}

impl Related<super::condition::Entity> for Entity {
    fn to() -> RelationDef {
        Relation::Condition.def()
    }
}

impl ActiveModelBehavior for ActiveModel {}
