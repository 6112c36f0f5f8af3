//! Who works with the catalogue, and what each may do.

mod account;
mod role;
mod settings;

pub use account::{AccountInput, MIN_PASSWORD, NewAccount, Password, Profile, ProfileInput, check_mail, login_key};
pub use role::{Right, Role};
pub use settings::{LearnersSee, Settings};
