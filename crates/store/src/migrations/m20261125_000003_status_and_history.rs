//! The status of sheets, and every version of every record.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
-- Until now everybody saw every sheet: what is there counts as published.
ALTER TABLE test ADD status text NOT NULL DEFAULT 'published'
    CHECK (status IN ('draft', 'in_review', 'published', 'retired'));
ALTER TABLE test ALTER status DROP DEFAULT;
ALTER TABLE test ADD published_version integer;
UPDATE test SET published_version = version;
CREATE TABLE revision (
    kind text NOT NULL CHECK (kind IN ('test', 'study', 'structure', 'condition')),
    record_id uuid NOT NULL,
    version integer NOT NULL,
    action text NOT NULL,
    comment text NOT NULL,
    content jsonb NOT NULL,
    -- Null for what came by an import, and for what was there before histories were kept.
    account_id uuid REFERENCES account (id),
    at timestamptz NOT NULL,
    -- Rises in the order in which changes become visible: who kept what was read asks for what came after.
    seq bigint GENERATED ALWAYS AS IDENTITY UNIQUE,
    PRIMARY KEY (kind, record_id, version)
);
INSERT INTO revision (kind, record_id, version, action, comment, content, at)
SELECT 'test', t.id, t.version, 'imported', '', jsonb_build_object(
        'name', (SELECT label FROM test_name n WHERE n.test_id = t.id AND n.position = 0),
        'aliases', coalesce((SELECT jsonb_agg(label ORDER BY position) FROM test_name n
            WHERE n.test_id = t.id AND n.position > 0), '[]'::jsonb),
        'region', t.region, 'purpose', t.purpose, 'condition', c.name, 'target_structures', t.target_structures,
        'patient_position', t.patient_position, 'steps', t.steps, 'positive_finding', t.positive_finding,
        'cautions', t.cautions, 'pitfalls', t.pitfalls), t.updated_at
FROM test t JOIN condition c ON c.id = t.condition_id;
INSERT INTO revision (kind, record_id, version, action, comment, content, at)
SELECT 'study', id, version, 'imported', '', jsonb_build_object('reference', reference, 'population', population,
        'reference_standard', reference_standard,
        'counts', jsonb_build_object('tp', tp, 'fp', fp, 'fn', fn, 'tn', tn)), updated_at
FROM study;
-- One transaction at a time draws numbers, until it ends: no smaller number can become visible after a larger one.
CREATE FUNCTION one_at_a_time() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    PERFORM pg_advisory_xact_lock(7201126);
    RETURN NULL;
END $$;
CREATE TRIGGER revision_order BEFORE INSERT ON revision FOR EACH STATEMENT EXECUTE FUNCTION one_at_a_time();
";

const DOWN: &str = "DROP TABLE revision; DROP FUNCTION one_at_a_time; ALTER TABLE test DROP published_version; ALTER TABLE test DROP status;";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }

    async fn down(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(DOWN).await.map(|_| ())
    }
}
