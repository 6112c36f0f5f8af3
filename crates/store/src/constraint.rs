//! Constraints of the database that a checked write can still meet, since somebody else was faster; each named once, with what it says
//! to whoever wrote.

use pruvex_core::{FieldError, FieldErrorCode};
use sea_orm::{DbErr, RuntimeErr, SqlxError};
use uuid::Uuid;

use crate::StoreError;

const NAME_TAKEN: [&str; 3] = [
    "name",
    "Another test already has this name or alias.",
    "Choose a name that tells the two apart, or edit the test that is there.",
];
const VOCABULARY_TAKEN: [&str; 3] =
    ["name", "This name is in the vocabulary already.", "Choose another one, or edit the one that is there."];
const IDENTIFIER_TAKEN: [&str; 2] =
    ["Another reference on record has this identifier.", "Use that one, or compare the identifier with the report."];

/// Field, message and remedy of a value that is taken, by the name of the constraint that keeps it single.
fn taken(constraint: &str) -> Option<[&'static str; 3]> {
    let [message, remedy] = IDENTIFIER_TAKEN;
    match constraint {
        "account_login_key" => Some(["login", "Somebody already signs in with this name.", "Choose another one."]),
        "test_name_pkey" => Some(NAME_TAKEN),
        "structure_name_pkey" | "condition_region_name_key_key" => Some(VOCABULARY_TAKEN),
        "reference_doi" => Some(["doi", message, remedy]),
        "reference_pmid" => Some(["pmid", message, remedy]),
        "double_extraction_result" => Some(["result_id", "This result is on the list already.", "Look for it there."]),
        _ => None,
    }
}

/// The kind of record that is gone, by the name of the constraint that points to it.
fn gone(constraint: &str) -> Option<&'static str> {
    match constraint {
        "study_test_id_fkey" | "agreement_test_id_fkey" | "double_extraction_test_id_fkey" => Some("test"),
        "accuracy_result_study_id_fkey" | "agreement_study_id_fkey" | "appraisal_study_id_fkey" => Some("study"),
        "double_extraction_result_id_fkey" => Some("result"),
        _ => None,
    }
}

/// The error of a write of `value`: a name, an identifier, or the id that a record points to.
pub(crate) fn refused(error: DbErr, value: &str) -> StoreError {
    let constraint = match &error {
        DbErr::Exec(RuntimeErr::SqlxError(cause)) | DbErr::Query(RuntimeErr::SqlxError(cause)) => {
            match cause.as_ref() {
                SqlxError::Database(cause) => cause.constraint().map(str::to_owned),
                _ => None,
            }
        }
        _ => None,
    };
    let Some(constraint) = constraint else { return error.into() };
    if let Some([field, message, remedy]) = taken(&constraint) {
        return StoreError::Fields(vec![FieldError::new(field, FieldErrorCode::Duplicate, value, message, remedy)]);
    }
    match gone(&constraint) {
        Some(what) => StoreError::not_found(what, Uuid::parse_str(value).unwrap_or_default()),
        None => error.into(),
    }
}
