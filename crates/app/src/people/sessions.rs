//! Signing in and out. A session is known by a secret that whoever carries requests hands back and forth, as a cookie for example.

use chrono::{DateTime, Utc};
use pruvex_core::FieldError;
use pruvex_core::people::{Password, Role};
use pruvex_store::StoreError;
use pruvex_store::people::{self as store, Account, OtherSession};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::attempts::{admit, confirm_password};
use super::password::{hash_password, verify_password};
use super::rights::Checked;
use super::samples::{is_sample, sample_login};
use super::second_step::{lacks_second_step, take_second_step};
use super::{AccountView, Holder, Reader, Secret};
use crate::app::commit;
use crate::{App, AppError};

/// Who is signed in, and what the sign-in page offers.
#[derive(Debug, Serialize, ToSchema)]
pub struct SessionView {
    /// `null` when nobody is.
    account: Option<AccountView>,
    /// This is a demonstration: anybody on this machine may enter in any role.
    demo: bool,
    /// The same account's other sessions, the last used first; none of a sample account, which everybody shares.
    elsewhere: Vec<SessionElsewhere>,
    /// The role signs in with a second step, and this account has none yet: it sets one up before anything else.
    second_step_missing: bool,
    /// How many recovery codes are left; `null` without a second step.
    recovery_codes: Option<u64>,
}

/// Another session of the same account.
#[derive(Debug, Serialize, ToSchema)]
pub struct SessionElsewhere {
    began_at: DateTime<Utc>,
    /// When it was last used, to the minute.
    seen_at: DateTime<Utc>,
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
    /// Of the second step, for accounts that have one: what the device shows, or a recovery code.
    #[serde(default)]
    code: String,
}

/// A role to enter the demonstration in.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct DemoInput {
    pub(crate) role: Role,
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
/// [`AppError::NotSignedIn`], [`AppError::SecondStepMissing`], [`AppError::NotAllowed`].
pub async fn authorise<R: Holder>(app: &App, secret: Option<&str>) -> Result<R, AppError> {
    let account = account_of(app, secret).await?.ok_or(AppError::NotSignedIn)?;
    if R::AFTER_SECOND_STEP && lacks_second_step(app, &account).await? {
        return Err(AppError::SecondStepMissing);
    }
    if account.role.may(R::RIGHT) { Ok(R::of(Checked(account))) } else { Err(AppError::NotAllowed { right: R::RIGHT }) }
}

/// Who is signed in.
///
/// # Errors
/// Database errors.
pub async fn get_session(app: &App, secret: Option<&str>) -> Result<SessionView, AppError> {
    view(app, account_of(app, secret).await?, secret.and_then(Secret::parse).as_ref()).await
}

async fn view(app: &App, account: Option<Account>, secret: Option<&Secret>) -> Result<SessionView, AppError> {
    let elsewhere = match (&account, secret) {
        (Some(account), Some(secret)) if !is_sample(app, account) => {
            store::list_other_sessions(&app.db, account.id, secret.hash()).await?
        }
        _ => Vec::new(),
    };
    let elsewhere =
        elsewhere.into_iter().map(|OtherSession { began_at, seen_at }| SessionElsewhere { began_at, seen_at });
    let (mut second_step_missing, mut recovery_codes) = (false, None);
    if let Some(account) = &account {
        second_step_missing = lacks_second_step(app, account).await?;
        if account.second_step {
            recovery_codes = Some(store::count_recovery_codes(&app.db, account.id).await?);
        }
    }
    Ok(SessionView {
        account: account.map(AccountView::from),
        demo: app.demo,
        elsewhere: elsewhere.collect(),
        second_step_missing,
        recovery_codes,
    })
}

/// Ends all of one's other sessions than that of `secret`.
///
/// # Errors
/// Database errors.
pub async fn end_other_sessions(app: &App, by: &Reader, secret: Option<&str>) -> Result<(), AppError> {
    let secret = secret.and_then(Secret::parse).ok_or(AppError::NotSignedIn)?;
    Ok(store::end_sessions(&app.db, by.account().id, Some(secret.hash())).await?)
}

pub(super) async fn begin_session(app: &App, account: Account) -> Result<SignedIn, AppError> {
    let secret = Secret::random();
    store::create_session(&app.db, secret.hash(), account.id).await?;
    Ok(SignedIn { view: view(app, Some(account), Some(&secret)).await?, secret: secret.text() })
}

/// Signs in. Failures are counted by the address that a request came from; wrong codes of the second step by account.
///
/// # Errors
/// [`AppError::SignInFailed`], [`AppError::CodeNeeded`], [`AppError::CodeWrong`], [`AppError::TooManyAttempts`], [`AppError::Busy`].
pub async fn sign_in(app: &App, address: &str, input: SignInInput) -> Result<SignedIn, AppError> {
    let SignInInput { login, password, code } = input;
    // Longer than any login or password: hashing it would only waste time.
    if login.len() > 400 || password.len() > 2_000 || login.contains('\0') {
        return Err(AppError::SignInFailed);
    }
    let place = admit(app, &login, address).await?;
    let (account, hash) = store::find_login(&app.db, &login).await?.unzip();
    let right = verify_password(place, password, hash.flatten()).await?;
    let account = account.filter(|_| right).ok_or(AppError::SignInFailed)?;
    store::forget_attempts(&app.db, &login, address).await?;
    take_second_step(app, &account, &code).await?;
    begin_session(app, account).await
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
    let login = sample_login(role);
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
/// A new password that breaks rules, [`AppError::SignInFailed`] for a wrong current one, [`AppError::TooManyAttempts`],
/// [`AppError::Busy`].
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
    confirm_password(app, account, address, input.current).await?;
    let hash = hash_password(app.hashing.queue()?.enter().await?, new).await?;
    let transaction = app.begin().await?;
    store::set_password(&transaction, account.id, hash, secret.hash()).await?;
    commit(transaction).await
}
