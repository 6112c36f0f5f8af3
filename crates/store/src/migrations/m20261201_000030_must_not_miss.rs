//! Conditions that must not be missed.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        let up = "ALTER TABLE condition ADD COLUMN must_not_miss boolean NOT NULL DEFAULT false";
        manager.get_connection().execute_unprepared(up).await.map(|_| ())
    }

    async fn down(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        let down = "ALTER TABLE condition DROP COLUMN must_not_miss";
        manager.get_connection().execute_unprepared(down).await.map(|_| ())
    }
}
