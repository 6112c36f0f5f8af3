//! What was published: references, and the studies and agreement results of tests.

mod agreements;
mod references;
mod studies;

pub use agreements::{
    AgreementRecord, agreements_of, create_agreements, list_agreements, set_agreement_deleted, update_agreement,
};
pub(crate) use references::bring_references;
pub use references::{
    BroughtReference, Encounter, Order, ReferenceQuery, ReferenceRecord, ReferencesImported, alike, citing,
    create_reference, delete_reference, get_reference, get_references, import_references, list_references,
    restore_reference, update_reference,
};
pub use studies::{
    StudyCounts, StudyRecord, create_studies, create_study, delete_study, list_counts, list_studies, restore_study,
    studies_of, tests_of, update_study,
};
