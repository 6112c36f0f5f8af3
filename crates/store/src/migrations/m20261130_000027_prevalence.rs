//! Conditions hold how common they are in people with symptoms and in people without.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        let up = "ALTER TABLE condition ADD COLUMN prevalence jsonb NOT NULL DEFAULT '[]'";
        manager.get_connection().execute_unprepared(up).await.map(|_| ())
    }

    async fn down(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        let down = "ALTER TABLE condition DROP COLUMN prevalence";
        manager.get_connection().execute_unprepared(down).await.map(|_| ())
    }
}
