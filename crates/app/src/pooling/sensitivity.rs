//! How much the answer of a pool depends on choices and on single results.

use std::sync::Arc;

use pruvex_core::accuracy::{Counts, Uninterpretable, UninterpretableAs, corrected_table};
use pruvex_core::evidence::{Facet, FacetValue, Unit};
use pruvex_core::pooling::{
    Correction, IntervalChoice, IntervalMethod, LeftOut, ModelChoice, OtherScale, PoolOptions, Pooled, PriorScales,
    SmallStudyError, SmallStudyTest, Summary, each_left_out, other_scales, small_study_effects,
};
use pruvex_core::{Level, ResultId};
use serde::Serialize;
use utoipa::ToSchema;

use super::gather::{PoolInput, gather, high_risk, pool_with};
use crate::blocking::blocking;
use crate::people::Reader;
use crate::{App, AppError};

/// The pool without one of its results.
#[derive(Debug, Serialize, ToSchema)]
pub struct WithoutResult {
    result: ResultId,
    #[serde(flatten)]
    rest: LeftOut,
}

/// The same results by one model.
#[derive(Debug, Serialize, ToSchema)]
pub struct ModelAlternative {
    /// What was asked for; the answer says what could be fitted.
    choice: ModelChoice,
    pooled: Option<Pooled>,
}

/// The same results with other intervals.
#[derive(Debug, Serialize, ToSchema)]
pub struct IntervalAlternative {
    interval: IntervalMethod,
    summary: Summary,
}

/// The intervals that stand beside each other.
const INTERVALS: [IntervalChoice; 4] =
    [IntervalChoice::Posterior, IntervalChoice::Profile, IntervalChoice::Sandwich, IntervalChoice::Wald];

/// Part of the results pooled by themselves.
#[derive(Debug, Serialize, ToSchema)]
pub struct PartPooled {
    /// How many results are left out of it.
    left_out: usize,
    /// `null` when none remains.
    pooled: Option<Pooled>,
}

/// The pool with results that count sides worth as many independent people as they are.
#[derive(Debug, Serialize, ToSchema)]
pub struct SidesAsPeople {
    /// Intraclass correlation of the two sides of a person, assumed.
    correlation: f64,
    /// How many results count sides.
    results: usize,
    pooled: Option<Pooled>,
}

/// Correlations of two sides that are tried.
const SIDES_ALIKE: [f64; 3] = [0.3, 0.5, 0.7];

/// The pool with tests that could not be interpreted counted in one way.
#[derive(Debug, Serialize, ToSchema)]
pub struct UninterpretableTaken {
    taken: UninterpretableAs,
    pooled: Option<Pooled>,
}

/// The pool with results corrected for people who were not verified.
#[derive(Debug, Serialize, ToSchema)]
pub struct VerificationCorrected {
    /// How many results are corrected.
    results: usize,
    /// How many could not be: of one test result nobody was verified. They stay as they are.
    not_corrected: usize,
    pooled: Option<Pooled>,
}

/// Why small-study effects are not tested.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum NotTested {
    /// Too few results for the test to be relied on.
    TooFew,
    /// All are equally large.
    NoSpread,
}

/// How much a pool's answer depends on choices and on single results.
#[derive(Debug, Serialize, ToSchema)]
pub struct PoolSensitivity {
    /// In the order of the pool; empty below two results.
    without: Vec<WithoutResult>,
    /// Each model by maximum likelihood with Wald intervals.
    alternatives: Vec<ModelAlternative>,
    /// Each kind of intervals, as far as there is one; empty below two results.
    intervals: Vec<IntervalAlternative>,
    /// The posterior's summary with priors of the spreads half as wide and twice as wide as usual.
    other_scales: Vec<OtherScale>,
    /// Without results of studies at high risk of bias.
    without_high_risk: PartPooled,
    /// Without results that report one group only.
    without_one_armed: PartPooled,
    /// Empty where no result counts sides.
    sides_as_people: Vec<SidesAsPeople>,
    /// Tests that could not be interpreted.
    uninterpretable: Uninterpretable,
    /// Counted in each way (intention to diagnose); empty where no report tells of any.
    uninterpretable_taken: Vec<UninterpretableTaken>,
    /// `null` where no report tells of people who were not verified.
    corrected_verification: Option<VerificationCorrected>,
    small_studies: Option<SmallStudyTest>,
    small_studies_untested: Option<NotTested>,
}

/// How much the answer of a pool depends on the model, on single results and on the risk of bias. Whoever asks this of the same tests anew
/// before it is answered ends it.
///
/// # Errors
/// As [`super::answer_pool`]; [`AppError::Superseded`].
pub async fn try_pool(app: &App, by: &Reader, input: PoolInput) -> Result<PoolSensitivity, AppError> {
    let gathered = gather(&input, by.account(), &app.db).await?;
    let pools = Arc::clone(&app.pools);
    let computation = app.supersede.begin(by.id(), &input.tests);
    let tried = blocking(move || {
        let out = input.selection.why_out(&gathered.members, None);
        let places: Vec<usize> = gathered.kept(&out).collect();
        let counts: Vec<Counts> = places.iter().map(|index| gathered.counts[*index]).collect();
        let options = PoolOptions { model: input.model, interval: gathered.interval, ..PoolOptions::default() };
        let mut without = Vec::new();
        if let Ok(each) = each_left_out(&counts, options) {
            for rest in each {
                if computation.is_called_off() {
                    return Err(AppError::Superseded);
                }
                without.extend(rest);
            }
        }
        let choices = [ModelChoice::Bivariate, ModelChoice::Independent, ModelChoice::Fixed, ModelChoice::NormalReml];
        // Models are told apart by what they make of the same likelihood.
        let by_model = |choice| pool_with(&pools, &counts, choice, IntervalChoice::Wald);
        let part = |keep: &dyn Fn(usize) -> bool| {
            let rest: Vec<Counts> =
                places.iter().filter(|index| keep(**index)).map(|index| gathered.counts[*index]).collect();
            PartPooled {
                left_out: places.len() - rest.len(),
                pooled: pool_with(&pools, &rest, input.model, gathered.interval).ok(),
            }
        };
        let pooled_as = |table: &dyn Fn(usize) -> Counts| {
            let counts: Vec<Counts> = places.iter().map(|index| table(*index)).collect();
            pool_with(&pools, &counts, input.model, gathered.interval).ok()
        };
        let armed = |index: usize| gathered.counts[index].has_both_arms();
        let by_side = |index: usize| gathered.members[index].said(Facet::Unit) == Some(&FacetValue::Unit(Unit::Side));
        let sides = places.iter().filter(|index| by_side(**index)).count();
        let as_people = |correlation: f64| {
            let pooled = pooled_as(&|index| match gathered.counts[index] {
                counts if by_side(index) => counts.as_independent(correlation),
                counts => counts,
            });
            SidesAsPeople { correlation, results: sides, pooled }
        };
        let uninterpretable =
            Uninterpretable::among(places.iter().map(|index| (&gathered.counts[*index], &gathered.flows[*index])));
        let taken = |taken| UninterpretableTaken {
            taken,
            pooled: pooled_as(&|index| gathered.flows[index].intention_to_diagnose(&gathered.counts[index], taken)),
        };
        let verified =
            |index: usize| Some(corrected_table(&gathered.flows[index].verification(&gathered.counts[index])?));
        let told: Vec<Option<Counts>> = places.iter().filter_map(|index| verified(*index)).collect();
        let corrected = told.iter().flatten().count();
        let corrected_verification = (!told.is_empty()).then(|| VerificationCorrected {
            results: corrected,
            not_corrected: told.len() - corrected,
            pooled: pooled_as(&|index| verified(index).flatten().unwrap_or(gathered.counts[index])),
        });
        let small = small_study_effects(&counts, Correction::default());
        Ok(PoolSensitivity {
            without: without
                .into_iter()
                .filter_map(|rest| Some(WithoutResult { result: gathered.members[*places.get(rest.study)?].id, rest }))
                .collect(),
            alternatives: choices
                .into_iter()
                .map(|choice| ModelAlternative { choice, pooled: by_model(choice).ok() })
                .collect(),
            intervals: INTERVALS
                .into_iter()
                .filter_map(|choice| pool_with(&pools, &counts, ModelChoice::Auto, choice).ok())
                .map(|pooled| IntervalAlternative { interval: pooled.interval, summary: pooled.summary })
                .collect(),
            other_scales: other_scales(&counts, Level::default(), PriorScales::default()),
            without_high_risk: part(&|index| !high_risk(&gathered.members[index])),
            without_one_armed: part(&armed),
            sides_as_people: if sides > 0 { SIDES_ALIKE.map(as_people).into() } else { Vec::new() },
            uninterpretable,
            uninterpretable_taken: if uninterpretable.tests > 0 {
                UninterpretableAs::ALL.map(taken).into()
            } else {
                Vec::new()
            },
            corrected_verification,
            small_studies_untested: small.as_ref().err().map(|error| match error {
                SmallStudyError::TooFew(_) => NotTested::TooFew,
                SmallStudyError::NoSpread => NotTested::NoSpread,
            }),
            small_studies: small.ok(),
        })
    });
    tried.await?
}
