//! What was published: references, studies, their results of accuracy and of agreement, how far they can be trusted, and how they were
//! read.

mod agreements;
mod appraisals;
mod extractions;
mod levels;
mod prevalence;
mod references;
mod registry;
mod results;
mod studies;

pub(crate) use prevalence::prevalence_of;
pub(crate) use registry::Registry;
pub(crate) use results::one as result_view;
pub(crate) use studies::views as study_views;

pub use agreements::{
    AgreementBody, AgreementView, answer_agreement, create_agreement, delete_agreement, list_agreements,
    restore_agreement, update_agreement,
};
pub use appraisals::{AppraisalView, AskedAspect, AskedDomain, list_questions, save_appraisal, suggest_judgements};
pub use extractions::{
    AskedExtraction, BoardFilter, BoardRowView, BoardView, ComparedExtractions, DoubleExtractionView, OwnExtraction,
    OwnExtractionBody, ReaderView, ResultOnRecord, SettledView, SettlementBody, ask_extraction, delete_extraction,
    get_extraction, give_up_extraction, list_extractions, reader_agreement_of, save_extraction, settle_extraction,
};
pub use levels::{LevelAnswer, LevelsAnswer, answer_levels};
pub use prevalence::answer_prevalence;
pub use references::{
    AlikeReference, ReferenceList, ReferenceView, create_reference, delete_reference, export_references, get_reference,
    list_alike_references, list_references, list_reported_tests, look_up_work, restore_reference, update_reference,
};
pub use results::{
    DoubleTrace, ResultBody, ResultEffect, ResultTrace, ResultView, WorthChange, create_result, delete_result,
    list_results, restore_result, try_result, update_result,
};
pub use studies::{Cited, KnownStudy, PublishedAs, StudyView, list_studies, update_study};

pub use pruvex_formats::{CitationStyle, ReferenceFormat};
pub use pruvex_store::evidence::{Order as ReferenceOrder, Progress, ReferenceQuery};
