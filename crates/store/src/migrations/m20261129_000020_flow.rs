//! Who has no place in the four cells of a result.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
ALTER TABLE accuracy_result
    ADD COLUMN positive_unverified integer CHECK (positive_unverified >= 0),
    ADD COLUMN negative_unverified integer CHECK (negative_unverified >= 0),
    ADD COLUMN uninterpretable_with integer CHECK (uninterpretable_with >= 0),
    ADD COLUMN uninterpretable_without integer CHECK (uninterpretable_without >= 0),
    ADD COLUMN uninterpretable_unverified integer CHECK (uninterpretable_unverified >= 0),
    ADD CHECK ((positive_unverified IS NULL) = (negative_unverified IS NULL)),
    ADD CHECK ((uninterpretable_with IS NULL) = (uninterpretable_without IS NULL));
";

const DOWN: &str = r"
ALTER TABLE accuracy_result
    DROP COLUMN positive_unverified,
    DROP COLUMN negative_unverified,
    DROP COLUMN uninterpretable_with,
    DROP COLUMN uninterpretable_without,
    DROP COLUMN uninterpretable_unverified;
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
