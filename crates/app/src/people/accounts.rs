//! The keeping of accounts.

use chrono::{DateTime, Utc};
use pruvex_core::people::{Right, Role};
use pruvex_store::people::{self as store, Account};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

use super::Administrator;
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
    role: Role,
    rights: Vec<Right>,
    /// When access was ended, if it was.
    disabled_at: Option<DateTime<Utc>>,
}

impl From<Account> for AccountView {
    fn from(account: Account) -> Self {
        let Account { id, version, login, name, role, disabled_at } = account;
        Self { id, version, login, name, role, rights: role.rights(), disabled_at }
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
