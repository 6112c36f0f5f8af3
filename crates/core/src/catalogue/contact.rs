//! What touches the patient, what must not, and what is needed beside a couch and two hands.

use serde::{Deserialize, Serialize};

use super::anatomy::Joint;
use super::limits::{MAX_NAME, MAX_TEXT, distinct};
use super::name_key;
use crate::field::{Checker, Part};

/// A place where the examiner, or something the examiner puts there, touches the patient, or must not.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Contact {
    /// With what.
    pub with: Option<ContactPart>,
    /// Where.
    pub placement: String,
    /// What it does there.
    pub tasks: Vec<ContactTask>,
    /// Nothing may touch here.
    pub forbidden: bool,
    /// Of a forbidden contact, what it does to the result.
    pub effect: String,
    /// The joint that it locks.
    pub locks: Option<Joint>,
    /// How the examiner makes sure that the joint is locked.
    pub verified: String,
}

/// What touches.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[allow(missing_docs, reason = "the words say it")]
pub enum ContactPart {
    Hand,
    Thumb,
    Fingers,
    Forearm,
    Elbow,
    Trunk,
    /// What the examiner sits on.
    Seat,
}

/// What a contact does.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[allow(missing_docs, reason = "the words say it")]
pub enum ContactTask {
    Stabilise,
    Move,
    Resist,
    Palpate,
    Measure,
}

/// Something that is needed beside a couch and two hands.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Equipment {
    /// Name: a chair, a box, a roll, an instrument.
    pub name: String,
    /// Why it is needed.
    pub reason: String,
}

/// What contradicts among the contacts of a variant: one place that is touched and must not be.
pub(super) fn check_contacts(c: &mut Checker, at: &str, contacts: &[Contact]) {
    for (index, contact) in contacts.iter().enumerate().filter(|(_, it)| it.forbidden && !it.is_blank()) {
        let place = name_key(&contact.placement);
        if contacts.iter().any(|other| !other.forbidden && name_key(&other.placement) == place) {
            let message = "This place is touched by another contact, and here nothing may touch it.";
            let remedy = "Say more exactly where each of the two is, or leave one out.";
            c.invalid(&format!("{at}[{index}].placement"), &contact.placement, message, remedy);
        }
    }
}

impl Part for Contact {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        if self.forbidden {
            let message = "Nothing may touch here, so there is nothing for a contact to do.";
            let remedy = "Leave this out, or let the contact be made.";
            if !self.tasks.is_empty() {
                c.invalid(&field("tasks"), "", message, remedy);
            }
            if self.locks.is_some() {
                c.invalid(&field("locks"), "", message, remedy);
            }
            c.required(&field("effect"), &self.effect, MAX_TEXT, "Say what a contact here does to the result.");
        }
        Self {
            with: self.with,
            placement: c.required(&field("placement"), &self.placement, MAX_TEXT, "Say where it is."),
            tasks: distinct(&self.tasks),
            forbidden: self.forbidden,
            effect: c.text(&field("effect"), &self.effect, MAX_TEXT),
            locks: self.locks,
            verified: c.text(&field("verified"), &self.verified, MAX_TEXT),
        }
    }

    fn is_blank(&self) -> bool {
        [&self.placement, &self.effect, &self.verified].iter().all(|text| text.trim().is_empty())
    }
}

impl Part for Equipment {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        Self {
            name: c.required(&format!("{at}.name"), &self.name, MAX_NAME, "Say what is needed."),
            reason: c.text(&format!("{at}.reason"), &self.reason, MAX_TEXT),
        }
    }

    fn is_blank(&self) -> bool {
        self.name.trim().is_empty() && self.reason.trim().is_empty()
    }
}
