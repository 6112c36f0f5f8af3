//! Who asks: secrets, passwords, sessions, and the guards that routes name in their signatures.

mod guard;
mod password;
mod secret;

pub(crate) use guard::{Administrator, DraftReader, Origin, Reader, SESSION_COOKIE, SheetWriter, StudyWriter};
pub(crate) use password::{hash_password, verify_password};
pub(crate) use secret::Secret;
