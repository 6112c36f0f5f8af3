//! What was published: references, studies, and their results of accuracy and of agreement.

mod agreements;
mod appraisals;
mod board;
mod extractions;
mod own_records;
mod reference_links;
mod references;
mod result_rows;
mod results;
mod seen;
mod studies;

pub use agreements::{
    AgreementRecord, NewAgreement, agreements_of, create_agreement, create_agreements, list_agreements,
    set_agreement_deleted, update_agreement,
};
pub use appraisals::{AppraisalRecord, appraisals_of, create_appraisals, put_appraisal};
pub use board::{Board, BoardQuery, BoardReader, BoardRow, Progress, list_board};
pub(crate) use extractions::{BroughtExtraction, bring_extractions, checked, extractions_for_file, names};
pub use extractions::{
    DoubleExtraction, NewDoubleExtraction, ReaderExtraction, Settled, Settlement, ask_second_reading,
    create_double_extraction, delete_double_extraction, double_extractions_of, get_double_extraction,
    give_up_extraction, list_both, put_extraction, settle_double_extraction,
};
pub use own_records::own_record_studies;
pub use references::{
    BroughtReference, Citing, Encounter, Order, ReferenceQuery, ReferenceRecord, ReferencesImported, alike, citing,
    create_reference, delete_reference, get_reference, get_references, import_references, list_references,
    restore_reference, update_reference,
};
pub(crate) use references::{bring_references, references_of_dois};
pub use result_rows::ResultRecord;
pub use results::{
    NewResult, ResultCandidate, create_result, create_results, get_result, list_candidates, list_results,
    list_together, results_of, set_result_deleted, tests_of, update_result,
};
pub use seen::Seen;
pub(crate) use studies::studies_of_texts;
pub use studies::{
    OfStudy, StudyRecord, create_studies, get_studies, reported_from, studies_published_as, update_study,
};
