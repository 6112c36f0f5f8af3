//! A forgotten password: an administrator makes a link with which its owner sets a new one.

use chrono::{DateTime, Utc};
use pruvex_core::FieldErrorCode;
use pruvex_core::people::Password;
use pruvex_store::people::{self as store, Account, Reset};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

use super::password::hash_password;
use super::samples::is_sample;
use super::second_step::take_second_step;
use super::sessions::begin_session;
use super::{Administrator, OfferInput, Secret, SignedIn};
use crate::app::commit;
use crate::{App, AppError};

/// A link that sets a new password. It is shown once, to the one who made it.
#[derive(Debug, Serialize, ToSchema)]
pub struct ResetView {
    /// What its owner types to sign in.
    login: String,
    name: String,
    expires_at: DateTime<Utc>,
    /// Path of the page on which the password is set; `null` for whoever holds the link already.
    path: Option<String>,
    /// Setting the password asks for a code of the second step, too.
    second_step: bool,
}

impl ResetView {
    fn of(reset: Reset, secret: Option<&Secret>) -> Self {
        let Reset { account, expires_at, .. } = reset;
        let Account { login, name, second_step, .. } = account;
        Self { login, name, expires_at, path: secret.map(Secret::reset_path), second_step }
    }
}

/// A new password, by a link.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ResetInput {
    /// What the link holds.
    secret: String,
    /// The password in plain text; it is hashed at once and never stored.
    #[serde(default)]
    password: String,
    /// Of the second step, for accounts that have one: what the device shows, or a recovery code.
    #[serde(default)]
    code: String,
}

/// Makes a link with which the owner of an account sets a new password; where a mail address is known, it is sent there, too. `site` is the
/// address at which the administrator sees the application.
///
/// # Errors
/// No such account, or one without access; a sample account, which has no password.
pub async fn create_reset(app: &App, by: &Administrator, id: Uuid, site: &str) -> Result<ResetView, AppError> {
    let secret = Secret::random();
    let transaction = app.begin().await?;
    let reset = store::create_reset(&transaction, secret.hash(), id, by.id()).await?;
    if is_sample(app, &reset.account) {
        let (message, remedy) = ("Sample accounts have no password.", "They are entered from the sign-in page.");
        return Err(AppError::field("id", FieldErrorCode::Invalid, &reset.account.login, message, remedy));
    }
    commit(transaction).await?;
    if !reset.account.mail.is_empty() {
        let link = format!("{site}{}", secret.reset_path());
        let until = reset.expires_at.format("%-d %B %Y, %H:%M UTC");
        let text = format!(
            "{} made a link with which you set a new password for Pruvex.\n\nOpen it once, until {until}:\n{link}\n\nIf you did not ask for it, tell an administrator.",
            by.account().name,
        );
        app.outbox.send(&reset.account.mail, "A new password for Pruvex", text);
    }
    Ok(ResetView::of(reset, Some(&secret)))
}

/// Whose password a link sets, to whoever has its secret.
///
/// # Errors
/// [`AppError::ResetGone`].
pub async fn get_reset(app: &App, input: OfferInput) -> Result<ResetView, AppError> {
    let secret = Secret::parse(&input.secret).ok_or(AppError::ResetGone)?;
    let reset = store::find_reset(&app.db, secret.hash()).await?.ok_or(AppError::ResetGone)?;
    Ok(ResetView::of(reset, None))
}

/// Sets the password, ends every session of the account, and signs in.
///
/// # Errors
/// [`AppError::ResetGone`], a password that breaks rules, [`AppError::CodeNeeded`], [`AppError::CodeWrong`],
/// [`AppError::TooManyAttempts`], [`AppError::Busy`].
pub async fn reset_password(app: &App, input: ResetInput) -> Result<SignedIn, AppError> {
    let secret = Secret::parse(&input.secret).ok_or(AppError::ResetGone)?;
    // Hashing costs: only for those who hold a link.
    let reset = store::find_reset(&app.db, secret.hash()).await?.ok_or(AppError::ResetGone)?;
    let password =
        Password::check(&input.password, &reset.account.login).map_err(|error| AppError::Fields(vec![error]))?;
    take_second_step(app, &reset.account, &input.code).await?;
    let hash = hash_password(app.hashing.queue()?.enter().await?, password).await?;
    let transaction = app.begin().await?;
    // Access may have ended while the password was hashed.
    let reset = store::find_reset(&transaction, secret.hash()).await?.ok_or(AppError::ResetGone)?;
    if !store::use_reset(&transaction, &reset, hash).await? {
        return Err(AppError::ResetGone);
    }
    commit(transaction).await?;
    begin_session(app, reset.account).await
}
