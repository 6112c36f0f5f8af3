use sea_orm::entity::prelude::*;

#[derive(Clone, Debug, PartialEq, Eq, DeriveEntityModel)]
#[sea_orm(table_name = "examination")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: Uuid,
    pub owner_id: Uuid,
    pub label: String,
    pub region: String,
    pub plan_id: Uuid,
    pub plan_version: i32,
    /// As it was when the examination began.
    #[sea_orm(column_type = "JsonBinary")]
    pub plan: Json,
    /// What is known of the patient.
    #[sea_orm(column_type = "JsonBinary")]
    pub patient: Json,
    #[sea_orm(column_type = "JsonBinary")]
    pub conduct: Json,
    /// As it was when the examination was finished.
    #[sea_orm(column_type = "JsonBinary", nullable)]
    pub outcome: Option<Json>,
    /// What was found out later.
    #[sea_orm(column_type = "JsonBinary", nullable)]
    pub reference: Option<Json>,
    /// What a search looks at.
    pub said: String,
    pub due: Option<Date>,
    pub sample: bool,
    pub version: i32,
    pub created_at: DateTimeUtc,
    pub updated_at: DateTimeUtc,
    pub finished_at: Option<DateTimeUtc>,
    pub shared_at: Option<DateTimeUtc>,
    pub deleted_at: Option<DateTimeUtc>,
}

#[derive(Copy, Clone, Debug, EnumIter, DeriveRelation)]
pub enum Relation {}

impl ActiveModelBehavior for ActiveModel {}
