//! Handlers, one file an area.

mod accuracy;
mod catalogue;
mod combine;
mod evidence;
mod examination;
mod exchange;
pub(crate) mod health;
mod history;
mod likelihood;
mod people;
mod plan;
mod pooling;
mod unsaved;
mod vocabulary;

use rocket::Route;
use utoipa::OpenApi;

/// Makes one list of handlers both what the router answers and what the API's description says.
macro_rules! api {
    ($($($part:ident)::+,)*) => {
        /// All routes of the API, without their base.
        pub(crate) fn api() -> Vec<Route> {
            rocket::routes![$($($part)::+,)*]
        }

        /// What they say of themselves.
        #[derive(OpenApi)]
        #[openapi(paths($($($part)::+,)*))]
        pub(crate) struct Api;
    };
}

api![
    accuracy::study_accuracy,
    accuracy::rebuild_tables,
    catalogue::list::list_regions,
    catalogue::list::list_tests,
    catalogue::sheets::create_test,
    catalogue::sheets::get_test,
    catalogue::sheets::update_test,
    catalogue::checks::check_sheet,
    catalogue::checks::list_findings,
    catalogue::checks::read_values,
    catalogue::print::print_test,
    catalogue::review::step_test,
    catalogue::teaching_conflicts::list_teaching_conflicts,
    catalogue::teaching_conflicts::create_teaching_conflict,
    catalogue::teaching_conflicts::update_teaching_conflict,
    catalogue::teaching_conflicts::delete_teaching_conflict,
    catalogue::teaching_conflicts::restore_teaching_conflict,
    combine::answer_battery,
    combine::check_claims,
    evidence::agreements::answer_agreement,
    evidence::agreements::list_agreements,
    evidence::agreements::create_agreement,
    evidence::agreements::update_agreement,
    evidence::agreements::delete_agreement,
    evidence::agreements::restore_agreement,
    evidence::appraisals::list_questions,
    evidence::appraisals::suggest_judgements,
    evidence::appraisals::save_appraisal,
    evidence::extractions::list_extractions,
    evidence::extractions::ask_extraction,
    evidence::extractions::reader_agreement_of,
    evidence::extractions::get_extraction,
    evidence::extractions::delete_extraction,
    evidence::extractions::save_extraction,
    evidence::extractions::give_up_extraction,
    evidence::extractions::settle_extraction,
    evidence::levels::answer_levels,
    evidence::prevalence::answer_prevalence,
    evidence::references::list_references,
    evidence::references::get_reference,
    evidence::references::list_reported_tests,
    evidence::references::look_up_work,
    evidence::references::list_alike_references,
    evidence::references::create_reference,
    evidence::references::update_reference,
    evidence::references::delete_reference,
    evidence::references::restore_reference,
    evidence::references::export_references,
    evidence::results::list_results,
    evidence::results::create_result,
    evidence::results::try_result,
    evidence::results::update_result,
    evidence::results::delete_result,
    evidence::results::restore_result,
    evidence::studies::list_studies,
    evidence::studies::update_study,
    examination::list_examinations,
    examination::export_examinations,
    examination::begin_examination,
    examination::get_examination,
    examination::save_examination,
    examination::finish_examination,
    examination::own_examinations,
    examination::enter_local_result,
    examination::count_waiting,
    examination::save_reference,
    examination::share_examination,
    examination::delete_examination,
    examination::restore_examination,
    examination::print_examination,
    exchange::bundle::export_bundle,
    exchange::bundle::begin_bundle_import,
    exchange::tables::export_list,
    exchange::tables::export_results,
    exchange::table_import::table_template,
    exchange::table_import::table_columns,
    exchange::table_import::table_rows,
    exchange::table_import::begin_table_import,
    exchange::reference_import::begin_reference_import,
    exchange::imports::list_past_imports,
    exchange::imports::take_back_import,
    exchange::imports::get_import,
    exchange::imports::stop_import,
    history::list_versions,
    history::list_study_changes,
    history::list_vocabulary_changes,
    history::restore_test,
    likelihood::answer,
    likelihood::answer_patient,
    likelihood::explain_patient,
    likelihood::weigh_stakes,
    likelihood::plan_study,
    likelihood::print_ladder,
    people::get_session,
    people::sign_in,
    people::enter_demo,
    people::sign_out,
    people::change_password,
    people::end_other_sessions,
    people::get_settings,
    people::update_settings,
    people::list_accounts,
    people::update_account,
    people::list_invitations,
    people::create_invitation,
    people::get_offer,
    people::join,
    people::revoke_invitation,
    people::update_profile,
    people::begin_second_step,
    people::confirm_second_step,
    people::end_second_step,
    people::remove_second_step,
    people::create_reset,
    people::get_reset,
    people::reset_password,
    people::list_mail,
    plan::list_plans,
    plan::create_plan,
    plan::order_plan,
    plan::get_plan,
    plan::update_plan,
    plan::step_plan,
    plan::fit_plan,
    plan::list_offered_tests,
    plan::plan_standing,
    plan::print_plan,
    plan::list_plan_changes,
    pooling::of_test::pool_test,
    pooling::pool::answer_pool,
    pooling::pool::try_pool,
    pooling::pool::correct_pool,
    pooling::print::print_pool,
    pooling::snapshots::freeze_pool,
    pooling::snapshots::list_snapshots,
    pooling::snapshots::get_snapshot,
    pooling::snapshots::get_snapshot_file,
    pooling::snapshots::compare_snapshot,
    unsaved::get_unsaved,
    unsaved::put_unsaved,
    unsaved::delete_unsaved,
    vocabulary::list_structures,
    vocabulary::list_loading_tests,
    vocabulary::create_structure,
    vocabulary::update_structure,
    vocabulary::list_conditions,
    vocabulary::create_condition,
    vocabulary::update_condition,
];
