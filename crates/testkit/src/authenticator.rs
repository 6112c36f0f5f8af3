//! An authenticator app, as somebody has on a phone.

use std::time::{SystemTime, UNIX_EPOCH};

use totp_rs::{Builder, Secret};

/// A moment at which an app is looked at.
#[derive(Debug, Clone, Copy)]
pub struct Moment(i64);

impl Moment {
    /// This one.
    #[must_use]
    pub fn now() -> Self {
        let since = SystemTime::now().duration_since(UNIX_EPOCH).unwrap_or_default();
        Self(i64::try_from(since.as_secs()).unwrap_or(i64::MAX))
    }

    /// What the app shows for a key that many half minutes later; empty for what is no key.
    #[must_use]
    pub fn code(self, key: &str, later: i64) -> String {
        let Ok(secret) = Secret::try_from_base32(key) else { return String::new() };
        let at = u64::try_from(self.0 + 30 * later).unwrap_or_default();
        Builder::new().with_secret(secret).build_noncompliant().generate(at).to_string()
    }
}
