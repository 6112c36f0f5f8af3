//! A study is one set of people; its results of accuracy and agreement stand by themselves and point to it. Until now each result
//! carried its study's words; each gets a study of its own, since nobody said which were of the same people.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
ALTER TABLE study RENAME TO accuracy_result;
ALTER TABLE accuracy_result RENAME CONSTRAINT study_pkey TO accuracy_result_pkey;
ALTER TABLE accuracy_result RENAME CONSTRAINT study_whole_arms TO accuracy_result_whole_arms;
ALTER TABLE accuracy_result RENAME CONSTRAINT study_not_empty TO accuracy_result_not_empty;
ALTER INDEX study_test RENAME TO accuracy_result_test;
DROP INDEX study_reference;
CREATE TABLE study (
    id uuid PRIMARY KEY,
    reference text NOT NULL CHECK (reference <> ''),
    reference_id uuid REFERENCES reference (id),
    population text NOT NULL,
    setup jsonb NOT NULL,
    note text NOT NULL,
    sample boolean NOT NULL,
    version integer NOT NULL CHECK (version > 0),
    created_at timestamptz NOT NULL,
    updated_at timestamptz NOT NULL,
    deleted_at timestamptz
);
CREATE INDEX study_reference ON study (reference_id);
CREATE INDEX study_reference_text ON study (md5(lower(reference)));
ALTER TABLE accuracy_result
    ADD study_id uuid,
    ADD condition_id uuid REFERENCES condition (id),
    ADD variant text NOT NULL DEFAULT '',
    ADD criterion text NOT NULL DEFAULT '',
    ADD stage text NOT NULL DEFAULT '',
    ADD people_group text NOT NULL DEFAULT '',
    ADD unit text CHECK (unit IN ('person', 'side')),
    ADD together jsonb,
    ADD preferred boolean NOT NULL DEFAULT false,
    ADD page text NOT NULL DEFAULT '';
ALTER TABLE agreement ADD study_id uuid;
UPDATE accuracy_result SET study_id = gen_random_uuid(), unit = setup ->> 'unit';
UPDATE agreement SET study_id = gen_random_uuid();
INSERT INTO study
    SELECT study_id, reference, reference_id, population, setup - 'unit', '', sample, 1, created_at, updated_at, deleted_at
    FROM accuracy_result
    UNION ALL
    SELECT study_id, content ->> 'reference', reference_id, content ->> 'population', '{}', '', sample, 1, created_at, updated_at,
        deleted_at
    FROM agreement;
-- What earlier versions said of the study stays in their history.
ALTER TABLE revision DROP CONSTRAINT revision_kind_check;
UPDATE revision SET kind = 'result' WHERE kind = 'study';
ALTER TABLE revision ADD CONSTRAINT revision_kind_check
    CHECK (kind IN ('test', 'study', 'result', 'structure', 'condition', 'reference', 'agreement'));
INSERT INTO revision (kind, record_id, version, action, comment, content, account_id, at)
    SELECT 'study', id, 1, 'created', '', jsonb_strip_nulls(jsonb_build_object('reference', reference, 'reference_id', reference_id,
        'population', population, 'setup', setup, 'note', note)), NULL, created_at
    FROM study;
UPDATE agreement SET content = content - 'reference' - 'reference_id' - 'population';
ALTER TABLE accuracy_result
    DROP reference, DROP reference_id, DROP population, DROP setup,
    ALTER study_id SET NOT NULL,
    ADD FOREIGN KEY (study_id) REFERENCES study (id);
ALTER TABLE agreement
    DROP reference_id,
    ALTER study_id SET NOT NULL,
    ADD FOREIGN KEY (study_id) REFERENCES study (id);
CREATE INDEX accuracy_result_study ON accuracy_result (study_id);
CREATE INDEX agreement_study ON agreement (study_id);
";

const DOWN: &str = r"
ALTER TABLE accuracy_result ADD reference text, ADD reference_id uuid REFERENCES reference (id), ADD population text,
    ADD setup jsonb DEFAULT '{}';
UPDATE accuracy_result SET reference = study.reference, reference_id = study.reference_id, population = study.population,
    setup = study.setup || jsonb_strip_nulls(jsonb_build_object('unit', unit))
    FROM study WHERE study.id = study_id;
ALTER TABLE agreement ADD reference_id uuid REFERENCES reference (id);
UPDATE agreement SET reference_id = study.reference_id, content = (content - 'page') || jsonb_strip_nulls(jsonb_build_object(
    'reference', study.reference, 'reference_id', study.reference_id, 'population', study.population))
    FROM study WHERE study.id = study_id;
ALTER TABLE agreement DROP study_id;
ALTER TABLE accuracy_result DROP study_id, DROP condition_id, DROP variant, DROP criterion, DROP stage, DROP people_group,
    DROP unit, DROP together, DROP preferred, DROP page,
    ALTER reference SET NOT NULL, ALTER population SET NOT NULL, ALTER setup SET NOT NULL,
    ADD CHECK (reference <> '');
DROP TABLE study;
DELETE FROM revision WHERE kind = 'study';
UPDATE revision SET kind = 'study' WHERE kind = 'result';
ALTER TABLE revision DROP CONSTRAINT revision_kind_check;
ALTER TABLE revision ADD CONSTRAINT revision_kind_check
    CHECK (kind IN ('test', 'study', 'structure', 'condition', 'reference', 'agreement'));
ALTER TABLE accuracy_result RENAME TO study;
ALTER TABLE study RENAME CONSTRAINT accuracy_result_pkey TO study_pkey;
ALTER TABLE study RENAME CONSTRAINT accuracy_result_whole_arms TO study_whole_arms;
ALTER TABLE study RENAME CONSTRAINT accuracy_result_not_empty TO study_not_empty;
ALTER INDEX accuracy_result_test RENAME TO study_test;
CREATE INDEX study_reference ON study (reference_id);
CREATE INDEX agreement_reference ON agreement (reference_id);
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
