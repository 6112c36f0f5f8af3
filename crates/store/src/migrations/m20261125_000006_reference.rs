//! References: published works with their identifiers.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
CREATE TABLE reference (
    id uuid PRIMARY KEY,
    doi text CHECK (doi <> ''),
    pmid text CHECK (pmid <> ''),
    -- The form in which titles are compared.
    title_key text NOT NULL,
    first_author text NOT NULL,
    year integer,
    search text NOT NULL,
    content jsonb NOT NULL,
    sample boolean NOT NULL,
    version integer NOT NULL CHECK (version > 0),
    created_at timestamptz NOT NULL,
    updated_at timestamptz NOT NULL,
    deleted_at timestamptz
);
-- One work is entered once; one that was deleted may be entered again.
CREATE UNIQUE INDEX reference_doi ON reference (doi) WHERE deleted_at IS NULL;
CREATE UNIQUE INDEX reference_pmid ON reference (pmid) WHERE deleted_at IS NULL;
CREATE INDEX reference_title ON reference USING gin (title_key gin_trgm_ops);
CREATE INDEX reference_search ON reference USING gin (search gin_trgm_ops);
CREATE INDEX reference_created ON reference (created_at DESC, id);
ALTER TABLE revision DROP CONSTRAINT revision_kind_check;
ALTER TABLE revision ADD CONSTRAINT revision_kind_check
    CHECK (kind IN ('test', 'study', 'structure', 'condition', 'reference'));
";

const DOWN: &str = r"
DELETE FROM revision WHERE kind = 'reference';
ALTER TABLE revision DROP CONSTRAINT revision_kind_check;
ALTER TABLE revision ADD CONSTRAINT revision_kind_check CHECK (kind IN ('test', 'study', 'structure', 'condition'));
DROP TABLE reference;
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
