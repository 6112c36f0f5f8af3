//! Signing in with a second step, by codes that change with time.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
-- The secret is set when somebody begins and counts since a first code has shown that their device has it.
ALTER TABLE account
    ADD COLUMN second_step_secret bytea,
    ADD COLUMN second_step_since timestamptz,
    ADD COLUMN second_step_last bigint NOT NULL DEFAULT 0;
CREATE TABLE recovery_code (
    id uuid PRIMARY KEY,
    account_id uuid NOT NULL REFERENCES account (id) ON DELETE CASCADE,
    code_hash bytea NOT NULL,
    UNIQUE (account_id, code_hash)
);
";

const DOWN: &str = r"
DROP TABLE recovery_code;
ALTER TABLE account DROP COLUMN second_step_secret, DROP COLUMN second_step_since, DROP COLUMN second_step_last;
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
