//! Results that somebody is writing are kept like sheets.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
ALTER TABLE unsaved RENAME COLUMN test_id TO record_id;
ALTER TABLE unsaved RENAME COLUMN sheet TO content;
ALTER TABLE unsaved ADD COLUMN what text NOT NULL DEFAULT 'sheet' CHECK (what IN ('sheet', 'result'));
ALTER TABLE unsaved ALTER COLUMN what DROP DEFAULT;
ALTER TABLE unsaved DROP CONSTRAINT unsaved_pkey;
ALTER TABLE unsaved ADD PRIMARY KEY (account_id, what, record_id);
";

const DOWN: &str = r"
DELETE FROM unsaved WHERE what <> 'sheet';
ALTER TABLE unsaved DROP CONSTRAINT unsaved_pkey;
ALTER TABLE unsaved DROP COLUMN what;
ALTER TABLE unsaved RENAME COLUMN record_id TO test_id;
ALTER TABLE unsaved RENAME COLUMN content TO sheet;
ALTER TABLE unsaved ADD PRIMARY KEY (account_id, test_id);
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }

    async fn down(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(DOWN).await.map(|_| ())
    }
}
