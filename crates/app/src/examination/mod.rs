//! Examinations that are carried out: begun by a plan, kept while they go on, finished, listed, shared, written out.

mod carry_out;
mod closing;
mod export;
mod local_results;
mod outcome;
mod print;
mod records;
mod view;

pub use carry_out::{ExaminationBegun, ExaminationInput, begin_examination, finish_examination, save_examination};
pub use closing::{OwnTestView, OwnView, ReferenceResultInput, own_examinations, save_reference};
pub use export::export_examinations;
pub use local_results::{LocalResult, LocalResultInput, LocalStudy, enter_local_result};
pub use print::print_examination;
pub use pruvex_store::examination::ExaminationState;
pub use records::{
    ExaminationFilter, ExaminationPage, ExaminationRow, ExaminationsWaiting, SharingInput, count_waiting,
    get_examination, list_examinations, set_examination_deleted, share_examination,
};
pub use view::{ExaminationStands, ExaminationView};
