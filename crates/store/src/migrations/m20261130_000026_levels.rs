//! Results may give counts per level of a finding beside their four cells.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        let up = "ALTER TABLE accuracy_result ADD COLUMN levels jsonb";
        manager.get_connection().execute_unprepared(up).await.map(|_| ())
    }

    async fn down(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        let down = "ALTER TABLE accuracy_result DROP COLUMN levels";
        manager.get_connection().execute_unprepared(down).await.map(|_| ())
    }
}
