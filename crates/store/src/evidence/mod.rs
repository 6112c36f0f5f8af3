//! What was published: references, and the studies of tests.

mod references;
mod studies;

pub(crate) use references::bring_references;
pub use references::{
    BroughtReference, Encounter, Order, ReferenceQuery, ReferenceRecord, ReferencesImported, alike, create_reference,
    delete_reference, get_reference, get_references, import_references, list_references, restore_reference,
    update_reference,
};
pub use studies::{
    StudyCounts, StudyRecord, citing_studies, create_studies, create_study, delete_study, list_counts, list_studies,
    restore_study, studies_of, tests_of, update_study,
};
