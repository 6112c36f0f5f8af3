//! Studies of somebody's own examinations, which pools leave out unless they are asked for.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

// There are few of them, and every list asks which they are.
const UP: &str = "CREATE INDEX study_own_records ON study (id) WHERE setup->>'source' = 'own_records'";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }

    async fn down(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared("DROP INDEX study_own_records").await.map(|_| ())
    }
}
