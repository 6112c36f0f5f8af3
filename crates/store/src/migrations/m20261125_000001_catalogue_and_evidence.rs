//! Conditions, tests with their names, and studies.
//!
//! Written as SQL: it is PostgreSQL's own (check constraints, partial indexes), and a migration must not change
//! when an entity does.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
CREATE TABLE condition (
    id uuid PRIMARY KEY,
    region text NOT NULL,
    name text NOT NULL CHECK (name <> ''),
    name_key text NOT NULL,
    setting text NOT NULL,
    pre_test double precision CHECK (pre_test BETWEEN 0 AND 1),
    UNIQUE (region, name_key)
);
CREATE TABLE test (
    id uuid PRIMARY KEY,
    region text NOT NULL CHECK (region IN ('neck', 'shoulder', 'elbow', 'hand_wrist', 'trunk_back', 'pelvis', 'hip',
        'knee', 'ankle_foot')),
    purpose text NOT NULL,
    condition_id uuid NOT NULL REFERENCES condition (id),
    target_structures jsonb NOT NULL,
    patient_position text NOT NULL,
    steps jsonb NOT NULL,
    positive_finding text NOT NULL,
    cautions jsonb NOT NULL,
    pitfalls jsonb NOT NULL,
    sample boolean NOT NULL,
    version integer NOT NULL DEFAULT 1 CHECK (version > 0),
    created_at timestamptz NOT NULL,
    updated_at timestamptz NOT NULL
);
CREATE INDEX test_region ON test (region);
CREATE INDEX test_condition ON test (condition_id);
-- Names and aliases in one table: the key makes every one of them unique in the catalogue, position 0 is the name.
CREATE TABLE test_name (
    key text PRIMARY KEY,
    test_id uuid NOT NULL REFERENCES test (id) ON DELETE CASCADE,
    position integer NOT NULL CHECK (position >= 0),
    label text NOT NULL,
    UNIQUE (test_id, position)
);
CREATE TABLE study (
    id uuid PRIMARY KEY,
    test_id uuid NOT NULL REFERENCES test (id),
    reference text NOT NULL CHECK (reference <> ''),
    population text NOT NULL,
    reference_standard text NOT NULL,
    tp integer CHECK (tp >= 0),
    fp integer CHECK (fp >= 0),
    fn integer CHECK (fn >= 0),
    tn integer CHECK (tn >= 0),
    sample boolean NOT NULL,
    version integer NOT NULL DEFAULT 1 CHECK (version > 0),
    created_at timestamptz NOT NULL,
    updated_at timestamptz NOT NULL,
    deleted_at timestamptz,
    CONSTRAINT study_whole_arms CHECK ((tp IS NULL) = (fn IS NULL) AND (tn IS NULL) = (fp IS NULL)),
    CONSTRAINT study_not_empty CHECK (coalesce(tp, 0) + coalesce(fp, 0) + coalesce(fn, 0) + coalesce(tn, 0) > 0)
);
CREATE INDEX study_test ON study (test_id) WHERE deleted_at IS NULL;
";

const DOWN: &str = "DROP TABLE study; DROP TABLE test_name; DROP TABLE test; DROP TABLE condition;";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }

    async fn down(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(DOWN).await.map(|_| ())
    }
}
