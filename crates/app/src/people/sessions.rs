//! Signing in and out. A session is known by a secret that whoever carries requests hands back and forth, as a cookie for example.

use pruvex_core::FieldError;
use pruvex_core::people::{Password, Role};
use pruvex_store::StoreError;
use pruvex_store::people::{self as store, Account};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::password::{hash_password, verify_password};
use super::rights::Checked;
use super::{AccountView, Holder, Reader, Secret};
use crate::app::commit;
use crate::{App, AppError};

/// Failed attempts from one address before it must wait: at one login, and at any.
const MAX_FAILURES: [u64; 2] = [5, 30];

/// Who is signed in, and what the sign-in page offers.
#[derive(Debug, Serialize, ToSchema)]
pub struct SessionView {
    /// `null` when nobody is.
    account: Option<AccountView>,
    /// This is a demonstration: anybody on this machine may enter in any role.
    demo: bool,
}

/// A session that has begun.
#[derive(Debug)]
pub struct SignedIn {
    /// Who is signed in.
    pub view: SessionView,
    /// What shows it with later requests.
    pub secret: String,
}

/// A name and password to sign in with.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SignInInput {
    login: String,
    password: String,
}

/// A role to enter the demonstration in.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct DemoInput {
    role: Role,
}

/// A change of one's own password.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PasswordInput {
    current: String,
    new: String,
}

async fn account_of(app: &App, secret: Option<&str>) -> Result<Option<Account>, AppError> {
    match secret.and_then(Secret::parse) {
        Some(secret) => Ok(store::find_session(&app.db, secret.hash()).await?),
        None => Ok(None),
    }
}

/// The right that a session's account has.
///
/// # Errors
/// [`AppError::NotSignedIn`], [`AppError::NotAllowed`].
pub async fn authorise<R: Holder>(app: &App, secret: Option<&str>) -> Result<R, AppError> {
    let account = account_of(app, secret).await?.ok_or(AppError::NotSignedIn)?;
    if account.role.may(R::RIGHT) { Ok(R::of(Checked(account))) } else { Err(AppError::NotAllowed { right: R::RIGHT }) }
}

/// Who is signed in.
///
/// # Errors
/// Database errors.
pub async fn get_session(app: &App, secret: Option<&str>) -> Result<SessionView, AppError> {
    let account = account_of(app, secret).await?.map(AccountView::from);
    Ok(SessionView { account, demo: app.demo })
}

pub(super) async fn begin_session(app: &App, account: Account) -> Result<SignedIn, AppError> {
    let secret = Secret::random();
    store::create_session(&app.db, secret.hash(), account.id).await?;
    let view = SessionView { account: Some(account.into()), demo: app.demo };
    Ok(SignedIn { view, secret: secret.text() })
}

/// Signs in. Failures are counted by the address that a request came from.
///
/// # Errors
/// [`AppError::SignInFailed`], [`AppError::TooManyAttempts`].
pub async fn sign_in(app: &App, address: &str, input: SignInInput) -> Result<SignedIn, AppError> {
    let SignInInput { login, password } = input;
    // Longer than any login or password: hashing it would only waste time.
    if login.len() > 400 || password.len() > 2_000 || login.contains('\0') {
        return Err(AppError::SignInFailed);
    }
    let failures = store::count_failures(&app.db, &login, address).await?;
    if failures.iter().zip(MAX_FAILURES).any(|(count, max)| *count >= max) {
        return Err(AppError::TooManyAttempts);
    }
    let (account, hash) = store::find_login(&app.db, &login).await?.unzip();
    let right = verify_password(password, hash.flatten()).await?;
    match account.filter(|_| right) {
        Some(account) => {
            store::forget_failures(&app.db, &login, address).await?;
            begin_session(app, account).await
        }
        None => {
            store::note_failure(&app.db, &login, address).await?;
            Err(AppError::SignInFailed)
        }
    }
}

/// Enters the demonstration in a role; only there, and only from the machine that runs it.
///
/// # Errors
/// [`AppError::NoDemonstration`].
pub async fn enter_demo(app: &App, from_this_machine: bool, input: DemoInput) -> Result<SignedIn, AppError> {
    if !app.demo || !from_this_machine {
        return Err(AppError::NoDemonstration);
    }
    let role = input.role;
    let login = format!("sample-{}", role.code().replace('_', "-"));
    let account = match store::find_login(&app.db, &login).await? {
        Some((account, _)) => account,
        None => {
            let name = format!("Sample {}", role.code().replace('_', " "));
            match store::create_account(&app.db, &login, &name, role, None).await {
                // Somebody else entered in this role at the same moment.
                Err(StoreError::Fields(_)) => store::find_login(&app.db, &login)
                    .await?
                    .map(|(account, _)| account)
                    .ok_or_else(|| AppError::internal("a sample account is there and is not"))?,
                made => made?,
            }
        }
    };
    begin_session(app, account).await
}

/// Signs out.
///
/// # Errors
/// Database errors.
pub async fn sign_out(app: &App, secret: Option<&str>) -> Result<(), AppError> {
    if let Some(secret) = secret.and_then(Secret::parse) {
        store::end_session(&app.db, secret.hash()).await?;
    }
    Ok(())
}

/// Changes one's own password and ends all one's other sessions than that of `secret`.
///
/// # Errors
/// A new password that breaks rules, [`AppError::SignInFailed`] for a wrong current one, [`AppError::TooManyAttempts`].
pub async fn change_password(
    app: &App,
    by: &Reader,
    secret: Option<&str>,
    address: &str,
    input: PasswordInput,
) -> Result<(), AppError> {
    let account = by.account();
    let secret = secret.and_then(Secret::parse).ok_or(AppError::NotSignedIn)?;
    let new = Password::check(&input.new, &account.login)
        .map_err(|error| AppError::Fields(vec![FieldError { field: "new".to_owned(), ..error }]))?;
    if store::count_failures(&app.db, &account.login, address).await?[0] >= MAX_FAILURES[0] {
        return Err(AppError::TooManyAttempts);
    }
    let hash = store::find_login(&app.db, &account.login).await?.and_then(|(_, hash)| hash);
    if !verify_password(input.current, hash).await? {
        store::note_failure(&app.db, &account.login, address).await?;
        return Err(AppError::SignInFailed);
    }
    let hash = hash_password(new).await?;
    let transaction = app.begin().await?;
    store::set_password(&transaction, account.id, hash, secret.hash()).await?;
    commit(transaction).await
}
