//! Sheets: one test each.

use pruvex_core::catalogue::{Derived, Sheet, SheetInput, Status, Step};
use pruvex_core::people::Right;
use pruvex_core::{FieldError, FieldErrorCode, TestId};
use pruvex_store::ConnectionTrait;
use pruvex_store::catalogue::{self as store, TestRecord};
use pruvex_store::history::Act;
use pruvex_store::people::Account;
use serde::Serialize;
use utoipa::ToSchema;

use crate::app::commit;
use crate::fields::asked_text;
use crate::people::{Reader, SheetWriter};
use crate::{App, AppError, Versioned};

/// A sheet with its id and version.
#[derive(Debug, Serialize, ToSchema)]
pub struct TestView {
    id: TestId,
    version: i32,
    /// Where it stands.
    status: Status,
    /// The version that learners see, if there is one.
    published_version: Option<i32>,
    /// Steps that you can take from here.
    next_steps: Vec<Step>,
    /// Came with sample data.
    sample: bool,
    #[serde(flatten)]
    sheet: Sheet,
    /// What follows from it without being written on it.
    derived: Derived,
}

impl TestView {
    pub(crate) fn of(
        TestRecord { id, version, sample, status, published_version, sheet }: TestRecord,
        reader: &Account,
    ) -> Self {
        let derived = Derived::of(&sheet);
        Self { id, version, status, published_version, next_steps: status.steps(reader.role), sample, sheet, derived }
    }
}

impl Versioned for TestView {
    fn version(&self) -> i32 {
        self.version
    }
}

/// A test as this person may see it.
pub(crate) async fn visible_test(
    db: &impl ConnectionTrait,
    id: TestId,
    reader: &Account,
) -> Result<TestRecord, AppError> {
    let found = if reader.role.may(Right::ReadDrafts) {
        store::get_test(db, id).await
    } else {
        store::get_published_test(db, id).await
    };
    Ok(found?)
}

/// The condition that a sheet is asked about, as the sheet names it; without one the leading one.
///
/// # Errors
/// A condition that it does not show.
pub(crate) fn shown_condition<'a>(sheet: &'a Sheet, asked: Option<&str>) -> Result<&'a str, AppError> {
    let Some(asked) = asked_text("condition", asked)? else { return Ok(&sheet.condition) };
    sheet.shows(&asked).ok_or_else(|| {
        let message = "This test does not show that condition.";
        let remedy = format!("Use one of: {}.", sheet.conditions().collect::<Vec<_>>().join(", "));
        AppError::Asked(vec![FieldError::new("condition", FieldErrorCode::Unknown, asked, message, &remedy)])
    })
}

/// A test's sheet: as it was signed off for those who may not see drafts.
///
/// # Errors
/// No such test that this person may see.
pub async fn get_test(app: &App, by: &Reader, id: TestId) -> Result<TestView, AppError> {
    let record = visible_test(&app.db, id, by.account()).await?;
    Ok(TestView::of(record, by.account()))
}

/// Adds a test, as a draft.
///
/// # Errors
/// A sheet that breaks rules or takes a name.
pub async fn create_test(app: &App, by: &SheetWriter, input: SheetInput) -> Result<TestView, AppError> {
    let sheet = Sheet::check(&input).map_err(AppError::Fields)?;
    let transaction = app.begin().await?;
    let record = store::create_test(&transaction, &sheet, false, Act::of("created", Some(by.id()))).await?;
    commit(transaction).await?;
    Ok(TestView::of(record, by.account()))
}

/// Saves a sheet that was read at this version; it is a draft then.
///
/// # Errors
/// A sheet that breaks rules or takes a name, no such test, [`AppError::Conflict`].
pub async fn update_test(
    app: &App,
    by: &SheetWriter,
    id: TestId,
    version: i32,
    input: SheetInput,
) -> Result<TestView, AppError> {
    let sheet = Sheet::check(&input).map_err(AppError::Fields)?;
    let transaction = app.begin().await?;
    let record = store::update_test(&transaction, id, version, &sheet, Act::of("edited", Some(by.id()))).await?;
    commit(transaction).await?;
    Ok(TestView::of(record, by.account()))
}
