//! Passwords: Argon2id with the library's recommended cost, off the asynchronous threads.

use argon2::password_hash::phc::PasswordHash;
use argon2::{Argon2, PasswordHasher, PasswordVerifier};
use pruvex_core::people::Password;

use crate::AppError;
use crate::blocking::blocking;

pub(crate) async fn hash_password(password: Password) -> Result<String, AppError> {
    let hash = move || Argon2::default().hash_password(password.reveal().as_bytes()).map(|hash| hash.to_string());
    blocking(hash).await?.map_err(AppError::internal)
}

/// Whether a password is that of a hash. Without a hash as much work is done and the answer is no, so that nobody can tell
/// by the time whether a login exists.
pub(crate) async fn verify_password(given: String, hash: Option<String>) -> Result<bool, AppError> {
    let verify = move || match hash.as_deref().map(PasswordHash::new) {
        Some(Ok(hash)) => Argon2::default().verify_password(given.as_bytes(), &hash).is_ok(),
        _ => {
            let _ = Argon2::default().hash_password(given.as_bytes());
            false
        }
    };
    blocking(verify).await
}
