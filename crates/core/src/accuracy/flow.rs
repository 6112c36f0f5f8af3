//! People of a study who have no place in its four cells: the reference standard was not done, or the test could not be interpreted.

use serde::Serialize;

use super::{Arm, Counts, VerificationCounts};
use crate::field::Checker;
use crate::{Count, FieldError, FieldErrorCode};

/// Who was not verified, and whose test could not be interpreted, as far as a report tells.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Flow {
    /// Test positive, reference standard not done. Told together with `negative_unverified`, or not at all.
    pub positive_unverified: Option<Count>,
    /// Test negative, reference standard not done.
    pub negative_unverified: Option<Count>,
    /// Test not interpretable, with the condition. Told together with `uninterpretable_without`, or not at all.
    pub uninterpretable_with: Option<Count>,
    /// Test not interpretable, without it.
    pub uninterpretable_without: Option<Count>,
    /// Test not interpretable, and nobody knows who has the condition.
    pub uninterpretable_unverified: Option<Count>,
}

/// What is made of tests that could not be interpreted.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum UninterpretableAs {
    /// They are not counted.
    LeftOut,
    /// Counted as positive.
    Positive,
    /// Counted as negative.
    Negative,
}

impl UninterpretableAs {
    /// All of them.
    pub const ALL: [Self; 3] = [Self::LeftOut, Self::Positive, Self::Negative];
}

/// Tests that could not be interpreted, over several results.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Uninterpretable {
    /// How many tests.
    pub tests: u64,
    /// Of how many: those in the cells, and those not verified, among them.
    pub of: u64,
    /// How many results tell it; the others say nothing of it.
    pub results: usize,
}

impl Uninterpretable {
    /// Over these results, as far as they tell.
    #[must_use]
    pub fn among<'a>(results: impl IntoIterator<Item = (&'a Counts, &'a Flow)>) -> Self {
        let mut all = Self::default();
        for (counts, flow) in results {
            if let Some(tests) = flow.uninterpretable() {
                all.tests += tests;
                all.of += counts.cells().into_iter().flatten().map(u64::from).sum::<u64>() + flow.people();
                all.results += 1;
            }
        }
        all
    }
}

/// Its fields, in the order of the form.
const FIELDS: [&str; 5] = [
    "positive_unverified",
    "negative_unverified",
    "uninterpretable_with",
    "uninterpretable_without",
    "uninterpretable_unverified",
];

/// Below this share of test-negatives that were verified, a result is pointed out: a convention of this program.
const HARDLY_VERIFIED: f64 = 0.5;

impl Flow {
    /// Checks the numbers, in the order of the struct.
    ///
    /// # Errors
    /// Numbers that are no counts; one of a pair without the other.
    pub fn check(given: [Option<f64>; 5]) -> Result<Self, Vec<FieldError>> {
        let mut checker = Checker::default();
        let mut counts = [None; 5];
        for ((count, field), value) in counts.iter_mut().zip(FIELDS).zip(given) {
            let Some(value) = value else { continue };
            *count = Count::new(value).ok();
            if count.is_none() {
                let message = format!("{value} is not a number of people.");
                let remedy = "Enter a whole number from 0 to ten million.";
                checker.push(FieldError::new(field, FieldErrorCode::NotACount, value, message, remedy));
            }
        }
        for pair in [[0, 1], [2, 3]] {
            let [one, other] = pair.map(|at| given[at].is_some());
            if one != other {
                let missing = FIELDS[pair[usize::from(one)]];
                let message = "This number is empty while the one beside it is filled.";
                let remedy = "Fill it in (0 counts), or clear both when the report does not give them.";
                checker.push(FieldError::new(missing, FieldErrorCode::Missing, "", message, remedy));
            }
        }
        let [
            positive_unverified,
            negative_unverified,
            uninterpretable_with,
            uninterpretable_without,
            uninterpretable_unverified,
        ] = counts;
        checker.finish(Some(Self {
            positive_unverified,
            negative_unverified,
            uninterpretable_with,
            uninterpretable_without,
            uninterpretable_unverified,
        }))
    }

    /// The numbers, in the order of the struct.
    #[must_use]
    pub fn counts(&self) -> [Option<Count>; 5] {
        [
            self.positive_unverified,
            self.negative_unverified,
            self.uninterpretable_with,
            self.uninterpretable_without,
            self.uninterpretable_unverified,
        ]
    }

    /// Everybody who is told of.
    #[must_use]
    pub fn people(&self) -> u64 {
        self.counts().into_iter().flatten().map(|it| u64::from(it.get())).sum()
    }

    /// Tests that could not be interpreted; `None` when the report does not tell.
    #[must_use]
    pub fn uninterpretable(&self) -> Option<u64> {
        let told = [self.uninterpretable_with, self.uninterpretable_without, self.uninterpretable_unverified];
        told.iter().any(Option::is_some).then(|| told.into_iter().flatten().map(|it| u64::from(it.get())).sum())
    }

    /// Who was verified and who was not, when the report tells that and somebody was not.
    #[must_use]
    pub fn verification(&self, counts: &Counts) -> Option<VerificationCounts> {
        let [tp, fp, fn_, tn] = counts.counts();
        let (positive_unverified, negative_unverified) = (self.positive_unverified?, self.negative_unverified?);
        (positive_unverified.get() > 0 || negative_unverified.get() > 0).then_some(())?;
        Some(VerificationCounts {
            positive_with: tp?,
            positive_without: fp?,
            positive_unverified,
            negative_with: fn_?,
            negative_without: tn?,
            negative_unverified,
        })
    }

    /// Fewer than half of the people with a negative test got the reference standard.
    #[must_use]
    pub fn hardly_verified(&self, counts: &Counts) -> bool {
        self.verification(counts).is_some_and(|of| {
            let [with, without, unverified] =
                [of.negative_with, of.negative_without, of.negative_unverified].map(|it| f64::from(it.get()));
            with + without < HARDLY_VERIFIED * (with + without + unverified)
        })
    }

    /// The table with tests that could not be interpreted counted as said (intention to diagnose; Schuetz and others 2012). A group that the table does not
    /// report stays so; those of whom nobody knows who has the condition have no place in any table.
    #[must_use]
    pub fn intention_to_diagnose(&self, counts: &Counts, taken: UninterpretableAs) -> Counts {
        let more = |count: Option<Count>| count.map_or(0, |it| u64::from(it.get()));
        let (with, without) = (more(self.uninterpretable_with), more(self.uninterpretable_without));
        let [diseased, others] = match taken {
            UninterpretableAs::LeftOut => return *counts,
            UninterpretableAs::Positive => [Arm { correct: with, n: with }, Arm { correct: 0, n: without }],
            UninterpretableAs::Negative => [Arm { correct: 0, n: with }, Arm { correct: without, n: without }],
        };
        counts.with_more(diseased, others)
    }
}
