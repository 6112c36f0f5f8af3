//! Who asks, and what they may do: sessions, invitations, accounts.

mod accounts;
mod attempts;
mod first_administrator;
mod invitations;
mod outbox;
mod password;
mod resets;
mod rights;
mod samples;
mod second_step;
mod secret;
mod sessions;
mod settings;

pub(crate) use first_administrator::first_administrator;
pub(crate) use outbox::Outbox;
pub(crate) use password::hashing_gate;
pub(crate) use secret::Secret;
pub(crate) use settings::{ShownToLearners, current_settings, seen_by, shown_to_learners};

pub use accounts::{AccountChange, AccountView, ProfileChange, list_accounts, update_account, update_profile};
pub use invitations::{
    InvitationInput, InvitationView, JoinInput, OfferInput, create_invitation, get_offer, join, list_invitations,
    list_mail, revoke_invitation,
};
pub use outbox::Mail;
pub use resets::{ResetInput, ResetView, create_reset, get_reset, reset_password};
pub use rights::{Administrator, DraftReader, Holder, Operator, Owner, Reader, SheetWriter, StudyWriter};
pub use second_step::{
    CodeInput, CurrentPassword, RecoveryCodes, SecondStepOffer, begin_second_step, confirm_second_step,
    end_second_step, remove_second_step,
};
pub use sessions::{
    DemoInput, PasswordInput, SessionView, SignInInput, SignedIn, authorise, change_password, end_other_sessions,
    enter_demo, get_session, sign_in, sign_out,
};
pub use settings::{SettingsView, get_settings, update_settings};
