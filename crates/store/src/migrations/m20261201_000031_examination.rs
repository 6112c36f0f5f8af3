//! Examinations that were carried out.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

// The plan is copied: an examination goes on by the plan with which it was begun, whatever becomes of that.
const UP: &str = r"
CREATE TABLE examination (
    id uuid PRIMARY KEY,
    owner_id uuid NOT NULL REFERENCES account (id) ON DELETE CASCADE,
    label text NOT NULL,
    region text NOT NULL,
    plan_id uuid NOT NULL,
    plan_version integer NOT NULL,
    plan jsonb NOT NULL,
    patient jsonb NOT NULL,
    conduct jsonb NOT NULL,
    outcome jsonb,
    reference jsonb,
    said text NOT NULL,
    due date,
    sample boolean NOT NULL,
    version integer NOT NULL,
    created_at timestamptz NOT NULL,
    updated_at timestamptz NOT NULL,
    finished_at timestamptz,
    shared_at timestamptz,
    deleted_at timestamptz,
    UNIQUE (owner_id, label)
);
CREATE INDEX examination_of_owner ON examination (owner_id, created_at DESC, id) WHERE deleted_at IS NULL;
CREATE INDEX examination_due ON examination (owner_id, due) WHERE deleted_at IS NULL AND due IS NOT NULL;
CREATE INDEX examination_shared ON examination (created_at DESC) WHERE deleted_at IS NULL AND shared_at IS NOT NULL;
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }

    async fn down(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared("DROP TABLE examination").await.map(|_| ())
    }
}
