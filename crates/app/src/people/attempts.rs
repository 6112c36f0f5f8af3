//! Attempts at passwords and codes: how many there may be, and from where.

use std::time::Duration;

use chrono::Utc;
use pruvex_store::people::{self as store, ATTEMPT_MINUTES, Account, Attempt};
use uuid::Uuid;

use super::password::verify_password;
use crate::gate::Place;
use crate::{App, AppError};

/// Failed attempts from one address before it must wait: at one login, and at any.
const MAX_ATTEMPTS: [usize; 2] = [5, 30];

/// How long an address has to wait after these attempts, the newest first; `None` when it may try.
fn wait_after(attempts: &[Attempt]) -> Option<Duration> {
    let [at_login, at_any] = MAX_ATTEMPTS;
    let barring = [attempts.iter().filter(|it| it.same_login).nth(at_login - 1), attempts.get(at_any - 1)];
    let since = barring.into_iter().flatten().map(|attempt| attempt.at).max()?;
    let until = since + chrono::Duration::minutes(ATTEMPT_MINUTES);
    Some((until - Utc::now()).to_std().unwrap_or_default().max(Duration::from_secs(1)))
}

pub(super) async fn refuse_too_many(
    app: &App,
    login: &str,
    address: &str,
    except: Option<Uuid>,
) -> Result<(), AppError> {
    // The one that is left out may be among them.
    let mut attempts = store::list_attempts(&app.db, login, address, MAX_ATTEMPTS[1] as u64 + 1).await?;
    attempts.retain(|attempt| Some(attempt.id) != except);
    wait_after(&attempts).map_or(Ok(()), |wait| Err(AppError::TooManyAttempts { wait }))
}

/// Admits an attempt at a password, which counts from now on: before the password is looked at, so that attempts made at the same
/// moment count one another. The answer is the place to hash it in.
pub(super) async fn admit(app: &App, login: &str, address: &str) -> Result<Place, AppError> {
    // Before anything is asked of the database: a flood ends here.
    let waiting = app.hashing.queue()?;
    refuse_too_many(app, login, address, None).await?;
    let place = waiting.enter().await?;
    let own = store::note_attempt(&app.db, login, address).await?;
    let admitted = refuse_too_many(app, login, address, Some(own)).await;
    if admitted.is_err() {
        store::forget_attempt(&app.db, own).await?;
    }
    admitted.map(|()| place)
}

/// That whoever uses a session knows its account's password: an unlocked screen is not enough for everything.
///
/// # Errors
/// [`AppError::SignInFailed`], [`AppError::TooManyAttempts`], [`AppError::Busy`].
pub(super) async fn confirm_password(
    app: &App,
    account: &Account,
    address: &str,
    password: String,
) -> Result<(), AppError> {
    let place = admit(app, &account.login, address).await?;
    let hash = store::find_login(&app.db, &account.login).await?.and_then(|(_, hash)| hash);
    if !verify_password(place, password, hash).await? {
        return Err(AppError::SignInFailed);
    }
    Ok(store::forget_attempts(&app.db, &account.login, address).await?)
}
