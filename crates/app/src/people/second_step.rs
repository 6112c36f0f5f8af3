//! The second step of signing in: six digits of a device that shares a secret with this server (TOTP, RFC 6238: SHA-1, 30 seconds), or
//! a recovery code where the device is lost.

use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use chrono::Utc;
use pruvex_core::FieldErrorCode;
use pruvex_store::people::{self as store, Account, SecretHash};
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use totp_rs::{Builder, Totp};
use utoipa::ToSchema;
use uuid::Uuid;

use super::attempts::{confirm_password, refuse_too_many};
use super::samples::is_sample;
use super::settings::current_settings;
use super::{Administrator, Owner, Reader, Secret};
use crate::app::commit;
use crate::{App, AppError};

/// So many recovery codes are handed out, of so many signs of five bits.
const RECOVERY: (usize, usize) = (8, 12);
/// Signs that are not mistaken for one another.
const SIGNS: &[u8; 32] = b"abcdefghijkmnpqrstuvwxyz23456789";

/// One's password, again.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CurrentPassword {
    password: String,
}

/// What an authenticator app is given. It is shown once.
#[derive(Debug, Serialize, ToSchema)]
pub struct SecondStepOffer {
    /// To be typed where nothing can be scanned.
    secret: String,
    /// The same as a link that authenticator apps open.
    link: String,
    /// The link as a QR code: a PNG picture as a `data:` address.
    picture: String,
}

/// The six digits that the device shows.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CodeInput {
    code: String,
}

/// Codes for the day the device is lost; each serves once. They are shown once.
#[derive(Debug, Serialize, ToSchema)]
pub struct RecoveryCodes {
    codes: Vec<String>,
}

/// Whether an account has to set up a second step before anything else.
pub(super) async fn lacks_second_step(app: &App, account: &Account) -> Result<bool, AppError> {
    if account.second_step || is_sample(app, account) {
        return Ok(false);
    }
    Ok(current_settings(&app.db).await?.second_step.contains(&account.role))
}

/// A code without the spaces and hyphens by which it is read.
fn typed(code: &str) -> String {
    code.chars().filter(char::is_ascii_alphanumeric).take(50).collect()
}

/// The second step of somebody whose first one was right; nothing for accounts that have none.
pub(super) async fn take_second_step(app: &App, account: &Account, code: &str) -> Result<(), AppError> {
    if !account.second_step {
        return Ok(());
    }
    let code = typed(code);
    if code.is_empty() {
        return Err(AppError::CodeNeeded);
    }
    admit_code(app, account).await?;
    let right = if code.len() == 6 && code.bytes().all(|sign| sign.is_ascii_digit()) {
        use_code(app, account, &code).await?
    } else {
        store::use_recovery_code(&app.db, account.id, hash_of(&code.to_lowercase())).await?
    };
    if !right {
        return Err(AppError::CodeWrong);
    }
    Ok(store::forget_attempts(&app.db, &account.login, &anywhere(account)).await?)
}

/// In place of an address: wrong codes are counted by account, wherever they come from. Only who knows the password gets so far.
fn anywhere(account: &Account) -> String {
    format!("second step of {}", account.id)
}

/// Counts an attempt at a code before the code is looked at, so that attempts made at the same moment count one another.
async fn admit_code(app: &App, account: &Account) -> Result<(), AppError> {
    let from = anywhere(account);
    let own = store::note_attempt(&app.db, &account.login, &from).await?;
    let admitted = refuse_too_many(app, &account.login, &from, Some(own)).await;
    if admitted.is_err() {
        store::forget_attempt(&app.db, own).await?;
    }
    admitted
}

/// Whether the account's device shows this code now, or did or will within half a minute; each serves once.
async fn use_code(app: &App, account: &Account, code: &str) -> Result<bool, AppError> {
    let Some(step) = store::find_second_step(&app.db, account.id).await? else { return Ok(false) };
    let now = u64::try_from(Utc::now().timestamp()).map_err(AppError::internal)?;
    let shown = shared_with(account, step.secret)?.check(code, now);
    match shown.map(i64::try_from) {
        Some(Ok(shown)) => Ok(store::use_step(&app.db, account.id, shown).await?),
        _ => Ok(false),
    }
}

fn shared_with(account: &Account, secret: Vec<u8>) -> Result<Totp, AppError> {
    let builder =
        Builder::new().with_secret(secret).with_issuer(Some("Pruvex")).with_account_name(account.login.clone());
    builder.build().map_err(AppError::internal)
}

fn hash_of(code: &str) -> SecretHash {
    Sha256::digest(code.as_bytes()).into()
}

/// Begins to set up a second step: answers what the device is given. It counts from [`confirm_second_step`] on.
///
/// # Errors
/// [`AppError::SignInFailed`] for a wrong password, [`AppError::TooManyAttempts`], [`AppError::Busy`], a sample account or one that has
/// a second step already.
pub async fn begin_second_step(
    app: &App,
    by: &Owner,
    address: &str,
    input: CurrentPassword,
) -> Result<SecondStepOffer, AppError> {
    let account = by.account();
    if is_sample(app, account) {
        return Err(refused(account, "This sample account is shared by everybody.", "Join by an invitation first."));
    }
    if account.second_step {
        return Err(refused(account, "Two-step sign-in is set up already.", "Turn it off first."));
    }
    confirm_password(app, account, address, input.password).await?;
    let secret = Secret::random().bytes()[..20].to_vec();
    let totp = shared_with(account, secret.clone())?;
    let link = totp.to_url().map_err(AppError::internal)?;
    let picture = format!("data:image/png;base64,{}", STANDARD.encode(totp.to_qr_png().map_err(AppError::internal)?));
    store::begin_second_step(&app.db, account.id, secret).await?;
    Ok(SecondStepOffer { secret: totp.secret().to_base32(), link, picture })
}

fn refused(account: &Account, message: &str, remedy: &str) -> AppError {
    AppError::field("account", FieldErrorCode::Invalid, &account.login, message, remedy)
}

/// Ends the setting up: a first code shows that the device has the secret. From now on the account signs in with it, and its other
/// sessions than that of `secret` end.
///
/// # Errors
/// [`AppError::CodeWrong`], [`AppError::TooManyAttempts`], nothing was begun.
pub async fn confirm_second_step(
    app: &App,
    by: &Owner,
    secret: Option<&str>,
    input: CodeInput,
) -> Result<RecoveryCodes, AppError> {
    let account = by.account();
    let keep = secret.and_then(Secret::parse).ok_or(AppError::NotSignedIn)?;
    if store::find_second_step(&app.db, account.id).await?.is_none_or(|step| step.confirmed) {
        return Err(refused(account, "No device is waiting for its first code.", "Begin again with your password."));
    }
    let code = typed(&input.code);
    admit_code(app, account).await?;
    if !use_code(app, account, &code).await? {
        return Err(AppError::CodeWrong);
    }
    store::forget_attempts(&app.db, &account.login, &anywhere(account)).await?;
    let codes: Vec<String> = (0..RECOVERY.0).map(|_| recovery_code()).collect();
    let transaction = app.begin().await?;
    store::confirm_second_step(&transaction, account.id, codes.iter().map(|code| hash_of(code))).await?;
    store::end_sessions(&transaction, account.id, Some(keep.hash())).await?;
    commit(transaction).await?;
    Ok(RecoveryCodes { codes: codes.iter().map(|code| in_groups(code)).collect() })
}

fn recovery_code() -> String {
    Secret::random().bytes().iter().take(RECOVERY.1).map(|byte| char::from(SIGNS[usize::from(byte % 32)])).collect()
}

/// As it is read and typed: by fours.
fn in_groups(code: &str) -> String {
    let signs: Vec<char> = code.chars().collect();
    signs.chunks(4).map(|group| group.iter().collect::<String>()).collect::<Vec<_>>().join("-")
}

/// Turns one's own second step off.
///
/// # Errors
/// [`AppError::SignInFailed`] for a wrong password, [`AppError::TooManyAttempts`], [`AppError::Busy`], a role that requires it.
pub async fn end_second_step(app: &App, by: &Reader, address: &str, input: CurrentPassword) -> Result<(), AppError> {
    let account = by.account();
    if current_settings(&app.db).await?.second_step.contains(&account.role) {
        let remedy = "Set it up on another device: an administrator can remove it, and you begin anew.";
        return Err(refused(account, "Your role requires two-step sign-in.", remedy));
    }
    confirm_password(app, account, address, input.password).await?;
    let transaction = app.begin().await?;
    store::end_second_step(&transaction, account.id).await?;
    commit(transaction).await
}

/// Removes the second step of somebody who lost both device and recovery codes, and ends the account's sessions.
///
/// # Errors
/// No such account; one's own, which is turned off with one's password.
pub async fn remove_second_step(app: &App, by: &Administrator, id: Uuid) -> Result<(), AppError> {
    if id == by.id() {
        return Err(refused(by.account(), "This is your own.", "Turn it off in the account menu."));
    }
    let transaction = app.begin().await?;
    store::end_second_step(&transaction, id).await?;
    store::end_sessions(&transaction, id, None).await?;
    commit(transaction).await
}
