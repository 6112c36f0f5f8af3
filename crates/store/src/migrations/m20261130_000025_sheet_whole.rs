//! Hands of a variant become contacts, each with several tasks, and equipment says why it is needed: in sheets, in their histories, and in what
//! is being written. Everything else that a sheet can hold since is absent from older ones, which reads as nothing written.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

/// A value that is no list, as a text that somebody is writing may hold, reads as an empty one.
const LIST: &str = r"
CREATE FUNCTION items_of(list jsonb) RETURNS jsonb LANGUAGE sql IMMUTABLE AS $$
    SELECT CASE WHEN jsonb_typeof(list) = 'array' THEN list ELSE '[]'::jsonb END
$$;
";

const UP: &str = r"
CREATE FUNCTION variant_whole(variant jsonb) RETURNS jsonb LANGUAGE sql IMMUTABLE AS $$
    SELECT (variant - 'hands') || jsonb_build_object(
        'contacts', (SELECT coalesce(jsonb_agg((hand - 'task') || jsonb_build_object(
            'tasks', CASE WHEN coalesce(hand->>'task', '') = '' THEN '[]'::jsonb ELSE jsonb_build_array(hand->'task') END
        ) ORDER BY place), '[]') FROM jsonb_array_elements(items_of(variant->'hands')) WITH ORDINALITY AS it(hand, place)),
        'equipment', (SELECT coalesce(jsonb_agg(jsonb_build_object('name', thing, 'reason', '') ORDER BY place), '[]')
            FROM jsonb_array_elements(items_of(variant->'equipment')) WITH ORDINALITY AS it(thing, place)))
$$;
";

const DOWN: &str = r"
CREATE FUNCTION variant_whole(variant jsonb) RETURNS jsonb LANGUAGE sql IMMUTABLE AS $$
    SELECT (variant - '{contacts,stance,relays,measuring,preparation,grading,inability}'::text[]) || jsonb_build_object(
        'hands', (SELECT coalesce(jsonb_agg(jsonb_build_object(
            'placement', contact->'placement', 'task', items_of(contact->'tasks')->0) ORDER BY place), '[]')
            FROM jsonb_array_elements(items_of(variant->'contacts')) WITH ORDINALITY AS it(contact, place)
            WHERE contact->'forbidden' IS DISTINCT FROM 'true'),
        'equipment', (SELECT coalesce(jsonb_agg(thing->'name' ORDER BY place), '[]')
            FROM jsonb_array_elements(items_of(variant->'equipment')) WITH ORDINALITY AS it(thing, place)))
$$;
";

const CHANGE: &str = r"
CREATE FUNCTION sheet_whole(sheet jsonb) RETURNS jsonb LANGUAGE sql IMMUTABLE AS $$
    SELECT CASE WHEN jsonb_typeof(sheet->'variants') = 'array' THEN jsonb_set(sheet, '{variants}', (
        SELECT coalesce(jsonb_agg(CASE WHEN jsonb_typeof(variant) = 'object' THEN variant_whole(variant) ELSE variant END ORDER BY place), '[]')
        FROM jsonb_array_elements(sheet->'variants') WITH ORDINALITY AS it(variant, place)
    )) ELSE sheet END
$$;
UPDATE test SET sheet = sheet_whole(sheet);
UPDATE revision SET content = sheet_whole(content) WHERE kind = 'test';
UPDATE unsaved SET content = sheet_whole(content) WHERE what = 'sheet';
DROP FUNCTION sheet_whole;
DROP FUNCTION variant_whole;
DROP FUNCTION items_of;
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(&[LIST, UP, CHANGE].concat()).await.map(|_| ())
    }

    /// What only a later sheet can hold, beyond hands and equipment, stays in the documents: an earlier program refuses those that hold it.
    async fn down(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(&[LIST, DOWN, CHANGE].concat()).await.map(|_| ())
    }
}
