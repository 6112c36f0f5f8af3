//! Random secrets of sessions and invitations. Only their hashes reach the database.

use base64::Engine;
use base64::engine::general_purpose::URL_SAFE_NO_PAD;
use pruvex_store::people::SecretHash;
use sha2::{Digest, Sha256};

/// 256 random bits. With so many, a fast hash is enough: there is nothing to guess.
#[derive(Clone)]
pub(crate) struct Secret([u8; 32]);

impl Secret {
    pub fn random() -> Self {
        Self(rand::random())
    }

    /// As it stands in a cookie or a link.
    pub fn text(&self) -> String {
        URL_SAFE_NO_PAD.encode(self.0)
    }

    /// Reads one back; `None` for anything else.
    pub fn parse(text: &str) -> Option<Self> {
        URL_SAFE_NO_PAD.decode(text).ok()?.try_into().ok().map(Self)
    }

    pub fn bytes(&self) -> &[u8; 32] {
        &self.0
    }

    pub fn hash(&self) -> SecretHash {
        Sha256::digest(self.0).into()
    }

    /// The page on which a new password is set.
    pub fn reset_path(&self) -> String {
        format!("/reset#{}", self.text())
    }

    /// The page on which an invitation is accepted. The secret stands in the fragment, which browsers send to nobody.
    pub fn join_path(&self) -> String {
        format!("/join#{}", self.text())
    }
}
