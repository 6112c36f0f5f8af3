//! The OpenAPI document, from which the front end's client is generated.

use utoipa::OpenApi;

use crate::routes::{
    accuracy, catalogue, checks, evidence, exchange, history, likelihood, people, pool_figure, pooling, pools, review,
    snapshots, table_import, teaching_sheet, unsaved, vocabulary,
};

#[derive(OpenApi)]
#[openapi(
    info(title = "Pruvex API", description = "Special tests, their studies, and what a result is worth."),
    paths(
        catalogue::list_regions,
        catalogue::list_conditions,
        catalogue::list_tests,
        catalogue::create_test,
        catalogue::get_test,
        catalogue::update_test,
        checks::check_sheet,
        checks::list_findings,
        checks::read_values,
        unsaved::get_unsaved,
        unsaved::put_unsaved,
        unsaved::delete_unsaved,
        vocabulary::list_structures,
        vocabulary::list_loading_tests,
        vocabulary::create_structure,
        vocabulary::update_structure,
        vocabulary::create_condition,
        vocabulary::update_condition,
        people::list_mail,
        review::step_test,
        history::list_versions,
        history::list_study_changes,
        history::list_vocabulary_changes,
        history::restore_test,
        teaching_sheet::print_test,
        exchange::export_bundle,
        exchange::export_list,
        exchange::export_results,
        exchange::import_bundle,
        table_import::table_template,
        table_import::table_columns,
        table_import::begin_table_import,
        table_import::get_table_import,
        table_import::stop_table_import,
        evidence::studies::list_studies,
        evidence::studies::update_study,
        evidence::results::list_results,
        evidence::results::create_result,
        evidence::results::try_result,
        evidence::results::update_result,
        evidence::results::delete_result,
        evidence::results::restore_result,
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
        evidence::agreements::answer_agreement,
        evidence::agreements::list_agreements,
        evidence::agreements::create_agreement,
        evidence::agreements::update_agreement,
        evidence::agreements::delete_agreement,
        evidence::agreements::restore_agreement,
        evidence::references::list_references,
        evidence::references::get_reference,
        evidence::references::list_reported_tests,
        evidence::references::look_up_work,
        evidence::references::list_alike_references,
        evidence::references::create_reference,
        evidence::references::update_reference,
        evidence::references::delete_reference,
        evidence::references::restore_reference,
        evidence::references::import_references,
        evidence::references::export_references,
        accuracy::study_accuracy,
        accuracy::rebuild_tables,
        pooling::pool_test,
        pools::answer_pool,
        pools::try_pool,
        pool_figure::print_pool,
        snapshots::freeze_pool,
        snapshots::list_snapshots,
        snapshots::get_snapshot,
        snapshots::get_snapshot_file,
        snapshots::compare_snapshot,
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
        people::list_invitations,
        people::create_invitation,
        people::get_invitation,
        people::accept_invitation,
        people::revoke_invitation,
        people::list_accounts,
        people::update_account,
    ),
    components(schemas(catalogue::Sort, pruvex_formats::CitationStyle, pruvex_formats::ReferenceFormat))
)]
struct Document;

pub(crate) fn document() -> utoipa::openapi::OpenApi {
    Document::openapi()
}

/// The document as pretty JSON.
///
/// # Errors
/// Never in practice; serialisation is fallible by type.
pub fn openapi_json() -> Result<String, serde_json::Error> {
    document().to_pretty_json()
}

#[cfg(test)]
mod tests {
    #[test]
    fn every_route_of_the_api_is_documented() {
        let document = serde_json::to_value(super::document()).unwrap();
        let routes = crate::routes::api();
        let documented: usize =
            document["paths"].as_object().unwrap().values().map(|p| p.as_object().unwrap().len()).sum();
        assert_eq!(documented, routes.len());
        for route in routes {
            let path = route.uri.path().replace('<', "{").replace('>', "}");
            let entry = &document["paths"][format!("/api/v1{path}")][route.method.as_str().to_lowercase()];
            assert!(entry.is_object(), "{} {path} is not documented", route.method);
        }
    }
}
