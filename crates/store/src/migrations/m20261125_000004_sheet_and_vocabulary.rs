//! Sheets as whole documents, their search, the vocabulary of structures, and what is not saved yet.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
-- A sheet is read and written as a whole, and its history keeps wholes: one document instead of a column for each field.
-- What was free text until now becomes the text of a structured entry.
CREATE FUNCTION structured_sheet(old jsonb) RETURNS jsonb LANGUAGE sql AS $$
    SELECT jsonb_build_object('name', old -> 'name', 'aliases', old -> 'aliases', 'region', old -> 'region',
        'purpose', old -> 'purpose', 'condition', old -> 'condition', 'positive_finding', old -> 'positive_finding',
        'variants', CASE WHEN old ->> 'patient_position' = '' AND old -> 'steps' = '[]' AND old -> 'target_structures' = '[]'
            THEN '[]'::jsonb ELSE jsonb_build_array(jsonb_build_object('name', 'As taught',
                'patient_position', old -> 'patient_position',
                'steps', (SELECT coalesce(jsonb_agg(jsonb_build_object('text', step) ORDER BY n), '[]')
                    FROM jsonb_array_elements(old -> 'steps') WITH ORDINALITY AS list (step, n)),
                'targets', (SELECT coalesce(jsonb_agg(jsonb_build_object('structure', target) ORDER BY n), '[]')
                    FROM jsonb_array_elements(old -> 'target_structures') WITH ORDINALITY AS list (target, n)))) END,
        'cautions', (SELECT coalesce(jsonb_agg(jsonb_build_object('text', caution) ORDER BY n), '[]')
            FROM jsonb_array_elements(old -> 'cautions') WITH ORDINALITY AS list (caution, n)),
        'pitfalls', (SELECT coalesce(jsonb_agg(jsonb_build_object('text', pitfall) ORDER BY n), '[]')
            FROM jsonb_array_elements(old -> 'pitfalls') WITH ORDINALITY AS list (pitfall, n)))
$$;
UPDATE revision SET content = structured_sheet(content) WHERE kind = 'test';
DROP FUNCTION structured_sheet;
ALTER TABLE test ADD sheet jsonb;
UPDATE test SET sheet = r.content FROM revision r WHERE r.kind = 'test' AND r.record_id = test.id AND r.version = test.version;
ALTER TABLE test ALTER sheet SET NOT NULL, DROP purpose, DROP target_structures, DROP patient_position, DROP steps,
    DROP positive_finding, DROP cautions, DROP pitfalls;
-- Trigrams forgive typing errors in names; words are found in all texts, those of names and targets first.
CREATE EXTENSION IF NOT EXISTS pg_trgm;
ALTER TABLE test ADD search_names text NOT NULL DEFAULT '', ADD search_text text NOT NULL DEFAULT '';
UPDATE test SET search_names = (SELECT string_agg(key, ' ; ') FROM test_name WHERE test_id = test.id),
    search_text = sheet ->> 'positive_finding';
ALTER TABLE test ALTER search_names DROP DEFAULT, ALTER search_text DROP DEFAULT;
ALTER TABLE test ADD search tsvector GENERATED ALWAYS AS
    (setweight(to_tsvector('english', search_names), 'A') || setweight(to_tsvector('english', search_text), 'B')) STORED;
CREATE INDEX test_search ON test USING gin (search);
CREATE INDEX test_search_names ON test USING gin (search_names gin_trgm_ops);
-- The same of the text that was signed off: what is only drafted must not be found by those who may not read it.
ALTER TABLE test ADD taught_names text NOT NULL DEFAULT '', ADD taught_text text NOT NULL DEFAULT '';
UPDATE test SET taught_names = search_names, taught_text = search_text WHERE published_version IS NOT NULL;
ALTER TABLE test ADD taught tsvector GENERATED ALWAYS AS
    (setweight(to_tsvector('english', taught_names), 'A') || setweight(to_tsvector('english', taught_text), 'B')) STORED;
CREATE INDEX test_taught ON test USING gin (taught);
CREATE INDEX test_taught_names ON test USING gin (taught_names gin_trgm_ops);
ALTER TABLE condition ADD version integer NOT NULL DEFAULT 1 CHECK (version > 0);
INSERT INTO revision (kind, record_id, version, action, comment, content, at)
SELECT 'condition', id, 1, 'imported', '',
    jsonb_build_object('region', region, 'name', name, 'setting', setting, 'pre_test', pre_test), now()
FROM condition;
CREATE TABLE structure (
    id uuid PRIMARY KEY,
    region text NOT NULL,
    tissue text NOT NULL,
    actions jsonb NOT NULL,
    retired boolean NOT NULL,
    version integer NOT NULL DEFAULT 1 CHECK (version > 0),
    created_at timestamptz NOT NULL,
    updated_at timestamptz NOT NULL
);
CREATE INDEX structure_region ON structure (region);
CREATE TABLE structure_name (
    region text NOT NULL,
    key text NOT NULL,
    structure_id uuid NOT NULL REFERENCES structure (id) ON DELETE CASCADE,
    position integer NOT NULL CHECK (position >= 0),
    label text NOT NULL,
    PRIMARY KEY (region, key),
    UNIQUE (structure_id, position)
);
-- What somebody is writing and has not saved: one for each sheet, and one for a new sheet (the nil id).
CREATE TABLE unsaved (
    account_id uuid NOT NULL REFERENCES account (id) ON DELETE CASCADE,
    test_id uuid NOT NULL,
    -- The version that it began from; null for a new sheet.
    version integer,
    sheet jsonb NOT NULL,
    at timestamptz NOT NULL,
    PRIMARY KEY (account_id, test_id)
);
";

const DOWN: &str = r"
DROP TABLE unsaved;
DROP TABLE structure_name;
DROP TABLE structure;
DELETE FROM revision WHERE kind IN ('structure', 'condition');
ALTER TABLE condition DROP version;
ALTER TABLE test DROP search, DROP search_names, DROP search_text, DROP taught, DROP taught_names, DROP taught_text;
ALTER TABLE test ADD purpose text NOT NULL DEFAULT '', ADD target_structures jsonb NOT NULL DEFAULT '[]',
    ADD patient_position text NOT NULL DEFAULT '', ADD steps jsonb NOT NULL DEFAULT '[]',
    ADD positive_finding text NOT NULL DEFAULT '', ADD cautions jsonb NOT NULL DEFAULT '[]',
    ADD pitfalls jsonb NOT NULL DEFAULT '[]';
UPDATE test SET purpose = sheet ->> 'purpose', positive_finding = sheet ->> 'positive_finding';
ALTER TABLE test DROP sheet;
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
