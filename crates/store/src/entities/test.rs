use sea_orm::entity::prelude::*;

#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "test")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: Uuid,
    pub region: String,
    pub condition_id: Uuid,
    #[sea_orm(column_type = "JsonBinary")]
    pub sheet: Json,
    pub search_names: String,
    pub search_text: String,
    pub taught_names: String,
    pub taught_text: String,
    pub sample: bool,
    pub status: String,
    pub published_version: Option<i32>,
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
