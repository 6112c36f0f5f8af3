//! How the first account comes to be.

use pruvex_core::people::Role;
use pruvex_store::people::{create_invitation, has_accounts};
use pruvex_store::{DatabaseConnection, StoreError};

use super::Secret;

/// While nobody can sign in: the path of the page on which the first administrator joins, by an invitation that serves once.
pub(crate) async fn first_administrator(db: &DatabaseConnection) -> Result<Option<String>, StoreError> {
    if has_accounts(db).await? {
        return Ok(None);
    }
    let secret = Secret::random();
    create_invitation(db, secret.hash(), Role::Administrator, "the first administrator", None).await?;
    Ok(Some(secret.join_path()))
}
