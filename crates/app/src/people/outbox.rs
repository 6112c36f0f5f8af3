//! Stands in for a mail server: what would be sent is kept in memory for the administrators to look at, and goes nowhere. Links in
//! it hold secrets, so none of it is written down; a restart forgets it.

use std::collections::VecDeque;
use std::sync::{Mutex, PoisonError};

use chrono::{DateTime, Utc};
use serde::Serialize;
use utoipa::ToSchema;

/// A mail that would have been sent.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Mail {
    pub to: String,
    pub subject: String,
    pub text: String,
    pub at: DateTime<Utc>,
}

/// The last mails, the newest first.
#[derive(Debug, Default)]
pub(crate) struct Outbox(Mutex<VecDeque<Mail>>);

impl Outbox {
    const KEPT: usize = 50;

    pub fn send(&self, to: &str, subject: &str, text: String) {
        let mail = Mail { to: to.to_owned(), subject: subject.to_owned(), text, at: Utc::now() };
        let mut kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        kept.push_front(mail);
        kept.truncate(Self::KEPT);
    }

    pub fn list(&self) -> Vec<Mail> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner).iter().cloned().collect()
    }
}

#[cfg(test)]
mod tests {
    use super::Outbox;

    #[test]
    fn the_newest_fifty_are_kept_the_newest_first() {
        let outbox = Outbox::default();
        assert!(outbox.list().is_empty());
        (0..60).for_each(|n| outbox.send(&format!("p{n}@example.org"), "Invitation", format!("text {n}")));
        let kept = outbox.list();
        assert_eq!((kept.len(), kept[0].to.as_str(), kept[49].text.as_str()), (50, "p59@example.org", "text 10"));
    }
}
