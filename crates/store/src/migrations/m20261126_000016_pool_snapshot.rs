//! Pools as they were at a day; what is frozen is never written again.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
CREATE TABLE pool_snapshot (
    id uuid PRIMARY KEY,
    region text NOT NULL,
    content jsonb NOT NULL,
    hash text NOT NULL CHECK (hash ~ '^[0-9a-f]{64}$'),
    created_by uuid REFERENCES account (id),
    created_at timestamptz NOT NULL
);
CREATE INDEX pool_snapshot_region ON pool_snapshot (region, created_at DESC);
CREATE FUNCTION refuse_change() RETURNS trigger LANGUAGE plpgsql AS
    $$ BEGIN RAISE EXCEPTION 'a frozen pool is not changed'; END $$;
CREATE TRIGGER pool_snapshot_frozen BEFORE UPDATE OR DELETE ON pool_snapshot
    FOR EACH ROW EXECUTE FUNCTION refuse_change();
";

const DOWN: &str = r"
DROP TABLE pool_snapshot;
DROP FUNCTION refuse_change();
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
