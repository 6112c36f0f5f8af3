//! Handlers, one file an area.

pub(crate) mod accuracy;
pub(crate) mod catalogue;
pub(crate) mod evidence;
pub(crate) mod health;
pub(crate) mod likelihood;
pub(crate) mod pooling;

use rocket::{Route, routes};

/// All routes under `/api/v1`.
pub(crate) fn api() -> Vec<Route> {
    routes![
        accuracy::study_accuracy,
        catalogue::list_regions,
        catalogue::list_conditions,
        catalogue::list_tests,
        catalogue::create_test,
        catalogue::get_test,
        catalogue::update_test,
        evidence::list_studies,
        evidence::create_study,
        evidence::update_study,
        evidence::delete_study,
        evidence::restore_study,
        likelihood::answer,
        pooling::pool_test,
    ]
}
