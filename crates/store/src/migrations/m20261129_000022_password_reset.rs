//! Links with which somebody sets a new password, and the mail address of an account.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
ALTER TABLE account ADD COLUMN mail text NOT NULL DEFAULT '';
-- The secret is kept as SHA-256 of 256 random bits: who reads the table can set nobody's password.
CREATE TABLE password_reset (
    id uuid PRIMARY KEY,
    token_hash bytea NOT NULL UNIQUE,
    account_id uuid NOT NULL REFERENCES account (id) ON DELETE CASCADE,
    created_by uuid REFERENCES account (id),
    created_at timestamptz NOT NULL,
    expires_at timestamptz NOT NULL,
    used_at timestamptz
);
CREATE INDEX password_reset_account ON password_reset (account_id);
";

const DOWN: &str = "DROP TABLE password_reset; ALTER TABLE account DROP COLUMN mail;";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }

    async fn down(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(DOWN).await.map(|_| ())
    }
}
