//! The keeping of accounts.

use chrono::{DateTime, Utc};
use pruvex_core::FieldErrorCode;
use pruvex_core::catalogue::name_key;
use pruvex_core::people::{Profile, ProfileInput, Right, Role};
use pruvex_store::DatabaseTransaction;
use pruvex_store::people::{self as store, Account};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

use super::samples::is_sample;
use super::{Administrator, Reader};
use crate::app::commit;
use crate::{App, AppError, Versioned};

/// An account as others see it.
#[derive(Debug, Serialize, ToSchema)]
pub struct AccountView {
    id: Uuid,
    version: i32,
    /// What is typed to sign in.
    login: String,
    name: String,
    /// Where mail reaches the person; empty where that is not said.
    mail: String,
    role: Role,
    rights: Vec<Right>,
    /// Signs in with a second step.
    second_step: bool,
    /// When access was ended, if it was.
    disabled_at: Option<DateTime<Utc>>,
}

impl From<Account> for AccountView {
    fn from(account: Account) -> Self {
        let Account { id, version, login, name, mail, role, second_step, disabled_at } = account;
        Self { id, version, login, name, mail, role, rights: role.rights(), second_step, disabled_at }
    }
}

impl Versioned for AccountView {
    fn version(&self) -> i32 {
        self.version
    }
}

/// Role and access of an account.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AccountChange {
    role: Role,
    disabled: bool,
}

/// How one wants to be called and reached.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ProfileChange {
    /// What is typed to sign in.
    login: String,
    /// How one is called beside what one wrote.
    name: String,
    /// Where mail reaches one; may be empty.
    #[serde(default)]
    mail: String,
}

/// Changes one's own name, sign-in name and mail address. What one wrote bears the new name from then on.
///
/// # Errors
/// Something that breaks rules or is taken, changed meanwhile, a sample account.
pub async fn update_profile(
    app: &App,
    by: &Reader,
    version: i32,
    input: ProfileChange,
) -> Result<AccountView, AppError> {
    let ProfileChange { login, name, mail } = input;
    if is_sample(app, by.account()) {
        let (message, remedy) =
            ("This sample account is shared by everybody.", "Join by an invitation to have your own name.");
        return Err(AppError::field("name", FieldErrorCode::Invalid, &name, message, remedy));
    }
    let profile = Profile::check(&ProfileInput { login, name, mail }).map_err(AppError::Fields)?;
    let transaction = app.begin().await?;
    name_is_free(&transaction, &profile.name, Some(by.id())).await?;
    let account = store::update_profile(&transaction, by.id(), version, &profile).await?;
    commit(transaction).await?;
    Ok(account.into())
}

/// Two people of one name could not be told apart beside what they wrote.
pub(super) async fn name_is_free(db: &DatabaseTransaction, name: &str, but: Option<Uuid>) -> Result<(), AppError> {
    let key = name_key(name);
    if store::list_accounts(db).await?.iter().any(|it| Some(it.id) != but && name_key(&it.name) == key) {
        let (message, remedy) = ("Another person here already has this name.", "Add your initials, or where you work.");
        return Err(AppError::field("name", FieldErrorCode::Duplicate, name, message, remedy));
    }
    Ok(())
}

/// Everybody's accounts.
///
/// # Errors
/// Database errors.
pub async fn list_accounts(app: &App, _by: &Administrator) -> Result<Vec<AccountView>, AppError> {
    Ok(store::list_accounts(&app.db).await?.into_iter().map(AccountView::from).collect())
}

/// Changes an account's role, or ends or gives back its access. What it wrote stays.
///
/// # Errors
/// No such account, changed meanwhile, or no administrator would be left.
pub async fn update_account(
    app: &App,
    _by: &Administrator,
    id: Uuid,
    version: i32,
    input: AccountChange,
) -> Result<AccountView, AppError> {
    let AccountChange { role, disabled } = input;
    let transaction = app.begin().await?;
    let account = store::update_account(&transaction, id, version, role, disabled).await?;
    commit(transaction).await?;
    Ok(account.into())
}
