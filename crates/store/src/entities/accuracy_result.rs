use sea_orm::entity::prelude::*;

#[derive(Clone, Debug, PartialEq, Eq, DeriveEntityModel)]
#[sea_orm(table_name = "accuracy_result")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: Uuid,
    pub test_id: Uuid,
    pub study_id: Uuid,
    pub condition_id: Option<Uuid>,
    pub variant: String,
    pub criterion: String,
    pub stage: String,
    pub people_group: String,
    pub reference_standard: String,
    pub unit: Option<String>,
    pub together: Option<Json>,
    pub preferred: bool,
    pub page: String,
    pub note: String,
    pub tp: Option<i32>,
    pub fp: Option<i32>,
    #[sea_orm(column_name = "fn")]
    pub fn_: Option<i32>,
    pub tn: Option<i32>,
    pub sample: bool,
    pub version: i32,
    pub created_at: DateTimeUtc,
    pub updated_at: DateTimeUtc,
    pub deleted_at: Option<DateTimeUtc>,
}

#[derive(Copy, Clone, Debug, EnumIter, DeriveRelation)]
pub enum Relation {}

impl ActiveModelBehavior for ActiveModel {}
