//! Rights as values: who holds one was found to have it, so that a use case that takes one cannot be reached without.

use pruvex_core::people::{Right, Role};
use pruvex_store::people::Account;
use uuid::Uuid;

/// A right that an account was found to have.
pub trait Holder: Sized {
    /// Which.
    const RIGHT: Right;
    /// Where a second step is asked of the role, it is held back until that is set up.
    const AFTER_SECOND_STEP: bool = true;

    #[doc(hidden)]
    fn of(account: Checked) -> Self;
}

/// An account whose session was found and whose role has the right. Nothing outside of this crate makes one.
#[derive(Debug)]
pub struct Checked(pub(super) Account);

macro_rules! holders {
    ($($(#[$doc:meta])* $name:ident: $right:expr $(, after second step: $after:expr)?;)*) => {$(
        $(#[$doc])*
        #[derive(Debug)]
        pub struct $name(Account);

        impl Holder for $name {
            const RIGHT: Right = $right;
            $(const AFTER_SECOND_STEP: bool = $after;)?

            fn of(account: Checked) -> Self {
                Self(account.0)
            }
        }

        #[allow(dead_code, reason = "not every use case needs to know all of who asks")]
        impl $name {
            pub(crate) fn id(&self) -> Uuid {
                self.0.id
            }

            pub(crate) fn role(&self) -> Role {
                self.0.role
            }

            pub(crate) fn account(&self) -> &Account {
                &self.0
            }
        }
    )*};
}

holders! {
    /// Anybody with an account.
    Reader: Right::Read;
    /// Whoever sets up the own account's second step.
    Owner: Right::Read, after second step: false;
    /// Who sees drafts and histories.
    DraftReader: Right::ReadDrafts;
    /// Who may write sheets.
    SheetWriter: Right::WriteSheets;
    /// Who may enter studies.
    StudyWriter: Right::WriteStudies;
    /// Who keeps the accounts.
    Administrator: Right::ManageAccounts;
}

/// Whoever runs the program at the machine where the database is: may bring in and take out everything, and is nobody in histories.
#[derive(Debug)]
pub struct Operator(());

impl Operator {
    /// For programs that are started by hand, never for requests.
    #[must_use]
    pub fn at_this_machine() -> Self {
        Self(())
    }
}
