//! Migrations, oldest first; each is self-contained and never edited after it landed.

use sea_orm_migration::{MigrationTrait, MigratorTrait, async_trait};

mod m20261125_000001_catalogue_and_evidence;
mod m20261125_000002_people;
mod m20261125_000003_status_and_history;
mod m20261125_000004_sheet_and_vocabulary;
mod m20261125_000005_study_note;
mod m20261125_000006_reference;
mod m20261125_000007_study_reference;
mod m20261125_000008_agreement;
mod m20261125_000009_study_setup;
mod m20261125_000010_study_and_result;
mod m20261125_000011_appraisal;
mod m20261126_000012_double_extraction;
mod m20261126_000013_column_choice;
mod m20261126_000014_unsaved_result;
mod m20261126_000015_unsaved_forms;
mod m20261126_000016_pool_snapshot;
mod m20261129_000017_name_keys;
mod m20261129_000018_settings;
mod m20261129_000019_pooled_answer;
mod m20261129_000020_flow;
mod m20261129_000021_anatomy;
mod m20261129_000022_password_reset;
mod m20261130_000023_second_step;
mod m20261130_000024_import;
mod m20261130_000025_sheet_whole;
mod m20261130_000026_levels;
mod m20261130_000027_prevalence;
mod m20261130_000028_teaching_conflict;
mod m20261130_000029_examination_plan;
mod m20261201_000030_must_not_miss;
mod m20261201_000031_examination;
mod m20261201_000032_own_records;

/// The list of migrations.
#[derive(Debug)]
pub struct Migrator;

#[async_trait::async_trait]
impl MigratorTrait for Migrator {
    fn migrations() -> Vec<Box<dyn MigrationTrait>> {
        vec![
            Box::new(m20261125_000001_catalogue_and_evidence::Migration),
            Box::new(m20261125_000002_people::Migration),
            Box::new(m20261125_000003_status_and_history::Migration),
            Box::new(m20261125_000004_sheet_and_vocabulary::Migration),
            Box::new(m20261125_000005_study_note::Migration),
            Box::new(m20261125_000006_reference::Migration),
            Box::new(m20261125_000007_study_reference::Migration),
            Box::new(m20261125_000008_agreement::Migration),
            Box::new(m20261125_000009_study_setup::Migration),
            Box::new(m20261125_000010_study_and_result::Migration),
            Box::new(m20261125_000011_appraisal::Migration),
            Box::new(m20261126_000012_double_extraction::Migration),
            Box::new(m20261126_000013_column_choice::Migration),
            Box::new(m20261126_000014_unsaved_result::Migration),
            Box::new(m20261126_000015_unsaved_forms::Migration),
            Box::new(m20261126_000016_pool_snapshot::Migration),
            Box::new(m20261129_000017_name_keys::Migration),
            Box::new(m20261129_000018_settings::Migration),
            Box::new(m20261129_000019_pooled_answer::Migration),
            Box::new(m20261129_000020_flow::Migration),
            Box::new(m20261129_000021_anatomy::Migration),
            Box::new(m20261129_000022_password_reset::Migration),
            Box::new(m20261130_000023_second_step::Migration),
            Box::new(m20261130_000024_import::Migration),
            Box::new(m20261130_000025_sheet_whole::Migration),
            Box::new(m20261130_000026_levels::Migration),
            Box::new(m20261130_000027_prevalence::Migration),
            Box::new(m20261130_000028_teaching_conflict::Migration),
            Box::new(m20261130_000029_examination_plan::Migration),
            Box::new(m20261201_000030_must_not_miss::Migration),
            Box::new(m20261201_000031_examination::Migration),
            Box::new(m20261201_000032_own_records::Migration),
        ]
    }
}
