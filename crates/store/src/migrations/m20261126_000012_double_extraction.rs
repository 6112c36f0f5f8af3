//! Two readers of one result: what each of them read, and how it was settled.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
CREATE TABLE double_extraction (
    id uuid PRIMARY KEY,
    test_id uuid NOT NULL REFERENCES test (id),
    reference_id uuid REFERENCES reference (id),
    reference text NOT NULL,
    asked text NOT NULL,
    result_id uuid REFERENCES accuracy_result (id),
    decisions jsonb,
    settled_by uuid REFERENCES account (id),
    settler text NOT NULL DEFAULT '',
    settled_at timestamptz,
    sample boolean NOT NULL,
    created_by uuid REFERENCES account (id),
    created_at timestamptz NOT NULL,
    updated_at timestamptz NOT NULL,
    deleted_at timestamptz,
    CHECK ((decisions IS NULL) = (settled_at IS NULL)),
    CHECK (settled_at IS NULL OR result_id IS NOT NULL)
);
CREATE UNIQUE INDEX double_extraction_result ON double_extraction (result_id) WHERE deleted_at IS NULL;
CREATE TABLE extraction (
    id uuid PRIMARY KEY,
    double_extraction_id uuid NOT NULL REFERENCES double_extraction (id),
    account_id uuid REFERENCES account (id),
    reader text NOT NULL DEFAULT '',
    content jsonb NOT NULL,
    handed_in_at timestamptz,
    version integer NOT NULL CHECK (version > 0),
    created_at timestamptz NOT NULL,
    updated_at timestamptz NOT NULL,
    UNIQUE (double_extraction_id, account_id)
);
";

const DOWN: &str = r"
DROP TABLE extraction;
DROP TABLE double_extraction;
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
