//! The accounts of a demonstration: one a role, which everybody on the machine enters.

use pruvex_core::people::Role;
use pruvex_store::people::Account;

use crate::App;

/// An account of the demonstration, which everybody enters.
pub(super) fn is_sample(app: &App, account: &Account) -> bool {
    app.demo && Role::ALL.iter().any(|role| sample_login(*role) == account.login)
}

/// What its account is called in a role.
pub(super) fn sample_login(role: Role) -> String {
    format!("sample-{}", role.code().replace('_', "-"))
}
