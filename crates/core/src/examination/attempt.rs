//! One attempt at a test, and what it shows by the rules of the test's own sheet.

use serde::{Deserialize, Serialize};

use crate::catalogue::limits::{MAX_ITEMS, MAX_NAME, MAX_TEXT};
use crate::catalogue::{GradeLevel, Inability, InabilityReason, Outcome, Pitfall, Sheet};
use crate::field::{Checker, Part};
use crate::name::name_key;

/// Longest hold that is noted, seconds.
const MAX_HOLD: f64 = 3_600.0;

/// On which side an attempt was made.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum AttemptSide {
    /// The side that is not affected, for comparison.
    Sound,
    /// The affected side.
    Affected,
    /// Both at once, or a test without sides.
    Both,
}

/// What an attempt showed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum AttemptShown {
    /// Positive.
    Positive,
    /// Neither clearly positive nor negative.
    Equivocal,
    /// Negative.
    Negative,
    /// A level of the sheet's own grading.
    Level,
    /// It was done, and tells nothing.
    NotInterpretable,
    /// The patient could not do it; the sheet says what that means.
    Unable,
}

/// Why an attempt tells nothing.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum UnreadableReason {
    /// The patient guarded.
    Guarding,
    /// Another movement stood in for the one that was asked.
    Compensation,
    /// The patient did not understand what to do.
    NotUnderstood,
    /// It was stopped before its end.
    Stopped,
    /// Something else, as the note says.
    Other,
}

/// Pain during an attempt.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum PainFound {
    /// None.
    None,
    /// The pain that brings the patient.
    Familiar,
    /// Another pain.
    Other,
}

/// One attempt at a test. Every one is kept.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Attempt {
    /// On which side.
    pub side: Option<AttemptSide>,
    /// What it showed.
    pub shown: Option<AttemptShown>,
    /// Name of the level; empty unless one was found.
    pub level: String,
    /// Why it tells nothing; none unless it does.
    pub unreadable: Option<UnreadableReason>,
    /// Why the patient could not do it; none unless they could not.
    pub unable: Option<InabilityReason>,
    /// Pain that came with it.
    pub pain: Option<PainFound>,
    /// How long a position was held, seconds.
    pub held: Option<f64>,
    /// Pain ended the hold, at that second.
    pub pain_ended: bool,
    /// What of the sheet's pitfalls was seen in the patient.
    pub pitfalls: Vec<String>,
    /// Why a negative result counts in spite of them; empty when it does not.
    pub overruled: String,
    /// What else is to be said.
    pub note: String,
}

/// Why an attempt is not simply read as it was entered.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(tag = "code", rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum ReadingCause {
    /// The sheet says what it means that the patient cannot do it.
    Inability {
        /// In its words; may be empty.
        note: String,
    },
    /// The sheet does not say what it means that the patient cannot do it.
    NoRule,
    /// Something in the patient pushes this test towards negative, so that a negative result tells nothing.
    Pitfall {
        /// What.
        pitfall: String,
    },
    /// The same, but the examiner gave a reason why it counts.
    Overruled {
        /// What was seen.
        pitfall: String,
    },
    /// The sheet has no level of this name any more.
    LevelGone,
}

/// What one attempt shows.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct AttemptReading {
    /// How it is read.
    pub outcome: Outcome,
    /// Why not simply as it was entered.
    pub cause: Option<ReadingCause>,
}

/// What all attempts at a test show together.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct TestReading {
    /// What the test shows; none while nobody tried it on the affected side, or on both at once.
    pub outcome: Option<Outcome>,
    /// The level that was found, if it is one.
    pub level: Option<String>,
    /// The attempt that counts, by its place.
    pub counts: Option<usize>,
    /// Positive only after an attempt that could be read and was not.
    pub after_repeats: bool,
    /// Positive on the sound side, too.
    pub sound_side_too: bool,
    /// What each attempt shows.
    pub attempts: Vec<AttemptReading>,
}

/// What of a sheet decides how an attempt is read.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct AttemptRules {
    /// What it means that the patient cannot do it.
    pub inability: Vec<Inability>,
    /// Levels of its finding.
    pub levels: Vec<GradeLevel>,
    /// Pitfalls in the patient that make a negative result tell nothing.
    pub spoiling: Vec<String>,
}

impl AttemptRules {
    /// The rules of a sheet for one way of doing the test; the taught one where the name is empty or unknown.
    #[must_use]
    pub fn of(sheet: &Sheet, variant: &str) -> Self {
        let Some(variant) = sheet.variant(variant) else { return Self::default() };
        let direction = |it: &Pitfall| it.direction(sheet.purpose, &variant.criteria);
        let spoiling = sheet.pitfalls.iter().filter(|it| it.spoils_negative(direction(it)));
        Self {
            inability: variant.inability.clone(),
            levels: variant.grading.levels.clone(),
            spoiling: spoiling.map(|it| it.text.clone()).collect(),
        }
    }

    /// What one attempt shows. An inability means what the sheet says, and tells nothing where it says nothing. A negative result in the
    /// presence of something in the patient that pushes towards negative tells nothing, unless the examiner overrules that with a reason.
    #[must_use]
    pub fn read(&self, attempt: &Attempt) -> AttemptReading {
        let plain = |outcome: Outcome| AttemptReading { outcome, cause: None };
        let nothing = |cause| AttemptReading { outcome: Outcome::NotInterpretable, cause: Some(cause) };
        let read = match attempt.shown {
            Some(AttemptShown::Positive) => plain(Outcome::Positive),
            Some(AttemptShown::Equivocal) => plain(Outcome::Equivocal),
            Some(AttemptShown::Negative) => plain(Outcome::Negative),
            Some(AttemptShown::Level) => match self.level(&attempt.level) {
                Some(level) => plain(level.outcome.unwrap_or(Outcome::NotInterpretable)),
                None => nothing(ReadingCause::LevelGone),
            },
            Some(AttemptShown::Unable) => match self.inability.iter().find(|it| it.reason == attempt.unable) {
                Some(rule) => AttemptReading {
                    // It is never negative, whatever an earlier version of the sheet said.
                    outcome: rule.outcome.filter(|it| *it != Outcome::Negative).unwrap_or(Outcome::NotInterpretable),
                    cause: Some(ReadingCause::Inability { note: rule.note.clone() }),
                },
                None => nothing(ReadingCause::NoRule),
            },
            Some(AttemptShown::NotInterpretable) | None => plain(Outcome::NotInterpretable),
        };
        if read.outcome != Outcome::Negative {
            return read;
        }
        let seen = |pitfall: &&String| attempt.pitfalls.iter().any(|it| name_key(it) == name_key(pitfall));
        match self.spoiling.iter().find(seen).cloned() {
            None => read,
            Some(pitfall) if attempt.overruled.is_empty() => nothing(ReadingCause::Pitfall { pitfall }),
            Some(pitfall) => AttemptReading { cause: Some(ReadingCause::Overruled { pitfall }), ..read },
        }
    }

    fn level(&self, name: &str) -> Option<&GradeLevel> {
        self.levels.iter().find(|it| name_key(&it.name) == name_key(name))
    }

    /// What all attempts show, in the order in which they were made: that of the last one that can be read on the affected side or on both at
    /// once, since an examiner repeats what they do not trust. Those on the sound side are for comparison and never count.
    #[must_use]
    pub fn read_all(&self, attempts: &[Attempt]) -> TestReading {
        let readings: Vec<AttemptReading> = attempts.iter().map(|it| self.read(it)).collect();
        let of = |sound: bool| {
            let sides = attempts.iter().map(move |it| (it.side == Some(AttemptSide::Sound)) == sound);
            readings
                .iter()
                .zip(sides)
                .enumerate()
                .filter(|(_, (_, wanted))| *wanted)
                .map(|(place, (read, _))| (place, read))
        };
        let readable: Vec<_> = of(false).filter(|(_, read)| read.outcome != Outcome::NotInterpretable).collect();
        let last = readable.last().copied().or_else(|| of(false).next_back());
        let outcome = last.map(|(_, read)| read.outcome);
        let positive = outcome == Some(Outcome::Positive);
        let counts = readable.last().map(|(place, _)| *place);
        let level = counts.map(|place| &attempts[place]).filter(|it| it.shown == Some(AttemptShown::Level));
        let level = level.and_then(|it| self.level(&it.level)).map(|it| it.name.clone());
        let after_repeats = positive && readable.iter().any(|(_, read)| read.outcome != Outcome::Positive);
        let sound_side_too = positive && of(true).any(|(_, read)| read.outcome == Outcome::Positive);
        TestReading { outcome, level, counts, after_repeats, sound_side_too, attempts: readings }
    }
}

impl Part for Attempt {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        c.present(&field("side"), self.side, "Say on which side it was done, or that it was both at once.");
        let shown = c.present(&field("shown"), self.shown, "Say what it showed.");
        let is = |wanted: AttemptShown| shown == Some(wanted);
        let level = if is(AttemptShown::Level) {
            c.required(&field("level"), &self.level, MAX_NAME, "Choose the level that was found.")
        } else {
            String::new()
        };
        if is(AttemptShown::NotInterpretable) {
            c.present(&field("unreadable"), self.unreadable, "Say why it tells nothing.");
        }
        if is(AttemptShown::Unable) {
            c.present(&field("unable"), self.unable, "Say why the patient could not do it.");
        }
        let note = c.text(&field("note"), &self.note, MAX_TEXT);
        if is(AttemptShown::NotInterpretable) && self.unreadable == Some(UnreadableReason::Other) && note.is_empty() {
            c.required(&field("note"), "", MAX_TEXT, "Say in the note why it tells nothing.");
        }
        let held = c.number(&field("held"), self.held, (0.0, MAX_HOLD), "seconds");
        if self.pain_ended {
            c.present(&field("held"), self.held, "Give the second at which pain ended the hold.");
        }
        Self {
            level,
            unreadable: self.unreadable.filter(|_| is(AttemptShown::NotInterpretable)),
            unable: self.unable.filter(|_| is(AttemptShown::Unable)),
            held,
            pitfalls: c.texts(&field("pitfalls"), &self.pitfalls, MAX_ITEMS, MAX_TEXT),
            overruled: c.text(&field("overruled"), &self.overruled, MAX_TEXT),
            note,
            ..self.clone()
        }
    }

    fn is_blank(&self) -> bool {
        *self == Self::default()
    }
}
