//! Passwords: Argon2id with the library's recommended cost, off the asynchronous threads, and one at a time: each takes 19 MiB.

use std::time::Duration;

use argon2::password_hash::phc::PasswordHash;
use argon2::{Argon2, PasswordHasher, PasswordVerifier};
use pruvex_core::people::Password;

use crate::AppError;
use crate::blocking::blocking;
use crate::gate::{Gate, Place};

/// Where hashing is let in: one at a time, so that a small machine has a core left for those who read, and a queue that a few seconds empty.
pub(crate) fn hashing_gate() -> Gate {
    Gate::new(1, 30, Duration::from_secs(8))
}

/// The hash of a new password.
pub(crate) async fn hash_password(place: Place, password: Password) -> Result<String, AppError> {
    // The place belongs to the work: whoever asked may have gone away before it ends.
    let hash = move || {
        let _place = place;
        Argon2::default().hash_password(password.reveal().as_bytes()).map(|hash| hash.to_string())
    };
    blocking(hash).await?.map_err(AppError::internal)
}

/// Whether a password is that of a hash. Without a hash as much work is done and the answer is no, so that nobody can tell
/// by the time whether a login exists.
pub(crate) async fn verify_password(place: Place, given: String, hash: Option<String>) -> Result<bool, AppError> {
    let verify = move || {
        let _place = place;
        match hash.as_deref().map(PasswordHash::new) {
            Some(Ok(hash)) => Argon2::default().verify_password(given.as_bytes(), &hash).is_ok(),
            _ => {
                let _ = Argon2::default().hash_password(given.as_bytes());
                false
            }
        }
    };
    blocking(verify).await
}
