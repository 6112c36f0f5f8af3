//! Which results a pool takes, and where the next study is expected.

use std::collections::BTreeMap;

use proptest::prelude::*;
use pruvex_core::accuracy::{Counts, RawCounts, Uninterpretable};
use pruvex_core::agreement::SizeWord;
use pruvex_core::evidence::{
    AccuracyInput, AccuracyResult, Appraisal, AppraisalInput, Aspect, Candidate, CareSetting, DataSource, Design,
    DomainAppraisal, Facet, FacetValue, Judgement, Member, OfTest, Rule, Selection, Study, StudyInput, StudySetup,
    Together, WhyOut, facets, left_out, other_spectrum, same_people, spectrum,
};
use pruvex_core::pooling::{
    ArmName, Limit, PoolOptions, PoolReading, Prediction, Provenance, Shift, StudySpread, pool, prediction, read,
    weights,
};
use pruvex_core::{Probability, ResultId, StudyId, TestId};
use uuid::Uuid;

const TEST: TestId = TestId(Uuid::from_u128(1));
const TAUGHT: &str = "Tendon tear";

fn result(id: u128) -> ResultId {
    ResultId(Uuid::from_u128(id))
}

/// Result `id` of `study`.
fn member(id: u128, study: u128, change: impl FnOnce(&mut AccuracyInput, &mut StudySetup)) -> Member {
    let (tp, fn_) = (Some(8.0), Some(2.0));
    let mut result = AccuracyInput { tp, fn_, ..AccuracyInput::default() };
    let mut setup = StudySetup::default();
    change(&mut result, &mut setup);
    let study_input = StudyInput { reference: "Report".to_owned(), setup, ..StudyInput::default() };
    let (result, of) = (AccuracyResult::check(&result).unwrap(), Study::check(&study_input).unwrap());
    let ids = (self::result(id), TEST, StudyId(Uuid::from_u128(study)));
    Member::of(ids, &result, &of, Some(Judgement::High), TAUGHT, "tendon  TEAR")
}

fn only(facet: Facet, values: &[&str]) -> Selection {
    let values = values.iter().map(|it| FacetValue::read(facet, it)).collect();
    Selection { only: BTreeMap::from([(facet, values)]), ..Selection::default() }
}

#[test]
fn every_result_that_is_out_says_why() {
    let two_groups = |_: &mut AccuracyInput, setup: &mut StudySetup| setup.design = Some(Design::TwoGroups);
    let members = [
        member(1, 1, |result, _| result.variant = "Held  Long".to_owned()),
        member(2, 2, two_groups),
        member(3, 3, |_, setup| (setup.first_year, setup.last_year) = (Some(2010.0), Some(2014.0))),
        member(4, 4, |result, _| result.condition = "Capsulitis".to_owned()),
        member(5, 5, |result, _| {
            let others = vec![TestId(Uuid::from_u128(2))];
            result.together = Some(Together { tests: others, rule: Rule::All });
        }),
    ];
    let why = |selection: &Selection| selection.why_out(&members, None);
    let (condition, together) = (Some(WhyOut::OtherCondition), Some(WhyOut::Together));
    assert_eq!(why(&Selection::default()), [None, None, None, condition, together]);
    let design = Some(WhyOut::Facet { facet: Facet::Design });
    assert_eq!(why(&only(Facet::Design, &["two_groups"])), [design, None, design, condition, together]);
    assert_eq!(why(&only(Facet::Design, &[""])), [None, design, None, condition, together], "not said");
    let variant = Some(WhyOut::Facet { facet: Facet::Variant });
    assert_eq!(
        why(&only(Facet::Variant, &["held long"]))[..3],
        [None, variant, variant],
        "case and spaces do not matter"
    );
    assert_eq!(why(&only(Facet::Variant, &[]))[..3], [variant; 3], "nothing asked for is nothing found");
    let years = Some(WhyOut::Years);
    let from = |from, until| Selection { from, until, ..Selection::default() };
    assert_eq!(why(&from(Some(2014), None))[..3], [years, years, None], "who does not say is out");
    assert_eq!(why(&from(None, Some(2013)))[2], years, "the year in which it ended counts");
    let off = Selection { off: vec![result(2)], ..Selection::default() };
    assert_eq!(why(&off)[..3], [None, Some(WhyOut::SwitchedOff), None]);
}

/// Local figures stay out of every pool of a sheet, and out of others unless somebody chooses them or compares them with the published ones.
#[test]
fn own_records_are_pooled_only_by_choice() {
    let own = member(2, 2, |_, setup| setup.source = Some(DataSource::OwnRecords));
    let members = [member(1, 1, |_, _| ()), own];
    let why = |selection: &Selection, apart| selection.why_out(&members, apart);
    let unasked = Some(WhyOut::OwnRecords);
    assert_eq!(why(&Selection::default(), None), [None, unasked]);
    assert_eq!(why(&Selection::default(), Some(Facet::Design)), [None, unasked]);
    assert_eq!(why(&Selection::default(), Some(Facet::Source)), [None, None]);
    assert_eq!(why(&only(Facet::Source, &["published", "own_records"]), None), [None, None]);
    let published = Some(WhyOut::Facet { facet: Facet::Source });
    assert_eq!(why(&only(Facet::Source, &["own_records"]), None), [published, None]);
    assert_eq!(facets(&members)[0].0, Facet::Source, "the choice is offered");
    let of = |study, own_records| OfTest {
        condition: "",
        together: false,
        own_records,
        candidate: Candidate { study: StudyId(Uuid::from_u128(study)), group: "", preferred: own_records },
    };
    assert_eq!(left_out(&[of(1, true), of(1, false)], TAUGHT, TAUGHT), [unasked, None]);
}

#[test]
fn own_records_take_results_only_after_their_appraisal_and_stay_what_they_are() {
    let study = |source| {
        let setup = StudySetup { source, ..StudySetup::default() };
        Study::check(&StudyInput { reference: "Records".to_owned(), setup, ..StudyInput::default() }).unwrap()
    };
    let [own, published] = [Some(DataSource::OwnRecords), None].map(study);
    let appraisal = |left_out: usize| {
        let risk =
            DomainAppraisal { risk: Some(Judgement::High), reason: "By hand".to_owned(), ..DomainAppraisal::default() };
        let domains = Aspect::Accuracy.domains().iter().skip(left_out).map(|domain| (*domain, risk.clone())).collect();
        Appraisal::check(Aspect::Accuracy, &AppraisalInput { domains }).unwrap()
    };
    assert!(published.takes_results(None).is_ok());
    assert_eq!(own.takes_results(None).unwrap_err().field, "setup.source");
    assert!(own.takes_results(Some(&appraisal(1))).is_err(), "one domain is not judged");
    assert!(own.takes_results(Some(&appraisal(0))).is_ok());
    assert!(own.may_become(&own).is_ok() && published.may_become(&published).is_ok());
    for (before, after) in [(&own, &published), (&published, &own)] {
        assert_eq!(before.may_become(after).unwrap_err().field, "setup.source");
    }
}

#[test]
fn nobody_counts_twice_but_once_for_each_value_that_is_compared() {
    let read = |id, criterion: &str| member(id, 1, |result, _| result.criterion = criterion.to_owned());
    let members = [read(1, "Any pain"), read(2, "Familiar pain"), read(3, "any pain")];
    let why = |selection: &Selection, apart| selection.why_out(&members, apart);
    let same = Some(WhyOut::SamePeople);
    assert_eq!(why(&Selection::default(), None), [None, same, same]);
    assert_eq!(why(&Selection::default(), Some(Facet::Criterion)), [None, None, same]);
    let off = Selection { off: vec![result(1)], ..Selection::default() };
    let switched = Some(WhyOut::SwitchedOff);
    assert_eq!(why(&off, None), [switched, None, same], "the next one of the same people takes its place");
    let part: Vec<&Member> = members.iter().collect();
    assert_eq!(same_people(&part, &[0, 1, 0]), [([0, 1], 2)], "both pairs are of one group");
    let apart = Member { study: StudyId(Uuid::from_u128(9)), ..members[1].clone() };
    assert!(same_people(&[&members[0], &apart], &[0, 1]).is_empty());
}

/// What a request or a frozen pool says of facets comes back as it was; what is no value of a facet is refused, not ignored.
#[test]
fn values_of_facets_are_written_and_read_back() {
    let written = r#"{"only":{"test":["00000000-0000-0000-0000-000000000001"],"variant":["Held  Long",""],"unit":["side"],
        "design":["two_groups"],"recruitment":["random"],"setting":["sports",""],"activity":["workers"],"course":["acute"],
        "state":["awake"],"source":["own_records"],"risk_of_bias":["high","unclear"]},"from":2001,"until":null,"off":[]}"#;
    let given: serde_json::Value = serde_json::from_str(written).unwrap();
    let read: Selection = serde_json::from_value(given.clone()).unwrap();
    assert_eq!(serde_json::to_value(&read).unwrap(), given);
    let refused = serde_json::from_str::<Selection>(r#"{"only":{"design":["nonsense"]}}"#).unwrap_err().to_string();
    assert!(refused.contains("\"nonsense\" is no value"), "{refused}");
}

#[test]
fn only_facets_in_which_results_differ_are_offered() {
    let members = [
        member(1, 1, |result, _| result.stage = "Severe".to_owned()),
        member(2, 2, |_, _| {}),
        member(3, 3, |result, _| result.stage = "severe".to_owned()),
        member(4, 4, |result, _| (result.stage, result.condition) = ("Mild".to_owned(), "Capsulitis".to_owned())),
    ];
    let offered = facets(&members);
    let [(Facet::Stage, values)] = offered.as_slice() else { panic!("{offered:?}") };
    let values: Vec<_> = values.iter().map(|it| (it.value.as_ref().map(FacetValue::code), it.results)).collect();
    assert_eq!(values, [(Some("Severe".to_owned()), 2), (None, 1)]);
}

fn counts([tp, fp, fn_, tn]: [u32; 4]) -> Counts {
    let [tp, fp, fn_, tn] = [tp, fp, fn_, tn].map(|cell| Some(f64::from(cell)));
    Counts::check(RawCounts { tp, fp, fn_, tn }).unwrap()
}

/// Worked by hand from the fit: `t(3)` at 95 % is 3.182446305284263.
#[test]
fn prediction_adds_the_spread_between_studies() {
    let studies = [[30, 5, 10, 40], [22, 9, 5, 35], [41, 4, 19, 60], [12, 6, 9, 28], [35, 15, 6, 50]].map(counts);
    let pooled = pool(&studies, PoolOptions::classical()).unwrap();
    let (found, t) = (prediction(&studies, &pooled), 3.182_446_305_284_263);
    let expit = |x: f64| 1.0 / (1.0 + (-x).exp());
    let (mu, cov) = (pooled.mu.sens.unwrap(), pooled.cov_mu.unwrap().both().unwrap());
    let half = t * (pooled.tau2.sens.unwrap() + cov[0][0]).sqrt();
    let sensitivity = found.sensitivity.unwrap();
    assert!((sensitivity.lower.get() - expit(mu - half)).abs() < 1e-9);
    assert!((sensitivity.upper.get() - expit(mu + half)).abs() < 1e-9);
    let (se, sp) = (expit(mu), expit(pooled.mu.spec.unwrap()));
    let (g, tau) = ([1.0 - se, sp], [pooled.tau2.sens.unwrap(), pooled.tau2.spec.unwrap()]);
    let between = pooled.rho.unwrap() * (tau[0] * tau[1]).sqrt();
    let variance = g[0] * g[0] * (tau[0] + cov[0][0])
        + g[1] * g[1] * (tau[1] + cov[1][1])
        + 2.0 * g[0] * g[1] * (between + cov[0][1]);
    let upper = (se / (1.0 - sp)).ln() + t * variance.sqrt();
    assert!((found.lr_positive.unwrap().upper.get().ln() - upper).abs() < 1e-9);
    assert!(prediction(&studies[..2], &pool(&studies[..2], PoolOptions::classical()).unwrap()).sensitivity.is_none());
}

#[test]
fn a_reading_says_what_the_numbers_say() {
    let of = |tables: &[[u32; 4]]| {
        let studies: Vec<Counts> = tables.iter().copied().map(counts).collect();
        let pooled = pool(&studies, PoolOptions::classical()).unwrap();
        read(&studies, &pooled, &prediction(&studies, &pooled), Provenance::default())
    };
    let PoolReading { positive, negative, spread, limits } = of(&[[22, 0, 8, 24]]);
    let positive = positive.unwrap();
    assert_eq!((positive.shift, positive.at_least, positive.at_most), (Shift::Large, Shift::Moderate, Shift::Large));
    assert_eq!(negative.unwrap().shift, Shift::Small);
    let perfect = Limit::NoErrors { arm: ArmName::NonDiseased, n: 24 };
    assert_eq!((spread, limits), (StudySpread::NotKnown, vec![Limit::SingleStudy, perfect]));
    // The same again and again: no variance between studies is estimated.
    let same = of(&[[40, 10, 10, 40]; 6]);
    assert_eq!((same.spread, same.positive.unwrap().shift), (StudySpread::NoneEstimated, Shift::Small));
    assert!(same.limits.is_empty());
    let (one, options) = ([counts([40, 10, 10, 40])], PoolOptions::classical());
    let known = Provenance { includes_test: 1, low_agreement: Some((0.31, SizeWord::Fair)), ..Provenance::default() };
    let of_one = read(&one, &pool(&one, options).unwrap(), &Prediction::default(), known);
    let disagree = Limit::LowAgreement { coefficient: 0.31, size: SizeWord::Fair };
    assert_eq!(of_one.limits[1..], [Limit::IncludesTest { results: 1, of: 1 }, disagree]);
    let uninterpretable = Uninterpretable { tests: 6, of: 90, results: 1 };
    let known = Provenance { negatives_unverified: 1, uninterpretable, ..Provenance::default() };
    let of_one = read(&one, &pool(&one, options).unwrap(), &Prediction::default(), known);
    let left_out = Limit::Uninterpretable { tests: 6, of: 90, results: 1 };
    assert_eq!(of_one.limits[1..], [Limit::NegativesUnverified { results: 1, of: 1 }, left_out]);
    // A test that tells nothing, and one that is against what it is taken for.
    let none = of(&[[10, 11, 10, 10], [12, 9, 11, 12], [9, 12, 12, 10]]);
    assert!(none.limits.contains(&Limit::FewStudies { both_arms: 3 }));
    assert!(none.limits.contains(&Limit::CrossesOne { positive: true }));
    let against = of(&[[5, 40, 45, 10]; 4]).positive.unwrap();
    assert_eq!((against.shift, against.at_most), (Shift::Reversed, Shift::Reversed));
    let spread = of(&[[45, 5, 5, 45], [10, 5, 40, 45], [48, 30, 2, 20], [25, 25, 25, 25], [40, 2, 10, 48]]).spread;
    assert_eq!(spread, StudySpread::AcrossOne);
}

#[test]
fn how_common_it_was_is_told_by_setting_and_once_for_the_same_people() {
    let seen = |id, study, setting| member(id, study, |_, setup| setup.setting = setting);
    let (general, hospital) = (Some(CareSetting::PrimaryCare), Some(CareSetting::SurgicalSeries));
    let chosen = member(5, 5, |_, setup| setup.design = Some(Design::TwoGroups));
    let members = [seen(1, 1, hospital), seen(2, 2, general), seen(3, 2, general), seen(4, 4, general), chosen];
    let one_arm = Counts::check(RawCounts { tp: Some(9.0), fn_: Some(1.0), ..RawCounts::default() }).unwrap();
    let tables =
        [counts([60, 5, 20, 15]), counts([8, 10, 2, 80]), counts([7, 9, 3, 81]), one_arm, counts([50, 5, 0, 45])];
    let parts = spectrum(&members, &tables);
    let said: Vec<_> = parts.iter().map(|it| (it.setting, it.studies, it.people, it.with_condition)).collect();
    assert_eq!(said, [(general, 1, 100, 10), (hospital, 1, 100, 80)]);
    let p = |value| Probability::new(value).unwrap();
    assert_eq!(other_spectrum(p(0.03), &parts), Some([p(0.1), p(0.8)]), "odds of 0.031 against a third of 0.111");
    assert_eq!((other_spectrum(p(0.05), &parts), other_spectrum(p(0.9), &parts)), (None, None));
    assert!(other_spectrum(p(0.95), &parts).is_some());
    assert_eq!(other_spectrum(p(0.5), &[]), None);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// Whatever is chosen: what is in was asked for, nobody is in twice, and whoever is out for the same people has one of them in.
    #[test]
    fn a_selection_counts_nobody_twice(
        drawn in prop::collection::vec((0_u128..4, 0_usize..3, 0_usize..3, any::<bool>(), 2000_i32..2006), 1..12),
        setting in prop::collection::vec(0_usize..3, 0..3),
        (off, from, compared) in (0_u128..12, 1999_i32..2007, any::<bool>()),
    ) {
        const GROUPS: [&str; 3] = ["", "Women", "Men"];
        const STAGES: [&str; 3] = ["", "Early", "Late"];
        let members: Vec<Member> = drawn
            .iter()
            .enumerate()
            .map(|(nth, (study, group, stage, preferred, year))| Member {
                group: GROUPS[*group].to_owned(),
                preferred: *preferred,
                year: Some(f64::from(*year)),
                ..member(nth as u128, 100 + study, |result, _| result.stage = STAGES[*stage].to_owned())
            })
            .collect();
        let wanted: Vec<&str> = setting.iter().map(|index| STAGES[*index]).collect();
        let selection = Selection {
            from: Some(from),
            off: vec![result(off)],
            ..if wanted.is_empty() { Selection::default() } else { only(Facet::Stage, &wanted) }
        };
        let apart = compared.then_some(Facet::Stage);
        let why = selection.why_out(&members, apart);
        prop_assert_eq!(why.len(), members.len());
        let meet = |one: &Member, other: &Member| {
            let groups = one.group.is_empty() || other.group.is_empty() || one.group == other.group;
            one.study == other.study && groups && apart.is_none_or(|facet| one.said(facet) == other.said(facet))
        };
        for (one, out) in members.iter().zip(&why) {
            let rivals = || members.iter().zip(&why).filter(|(other, out)| out.is_none() && other.id != one.id && meet(one, other));
            match out {
                None => {
                    prop_assert!(wanted.is_empty() || wanted.contains(&one.said(Facet::Stage).map(FacetValue::code).unwrap_or_default().as_str()));
                    prop_assert!(one.year >= Some(f64::from(from)) && one.id != result(off));
                    prop_assert_eq!(rivals().count(), 0, "counted twice");
                }
                Some(WhyOut::SamePeople) => prop_assert!(rivals().count() > 0, "left out for nobody"),
                Some(WhyOut::Years) => prop_assert!(one.year < Some(f64::from(from))),
                Some(WhyOut::SwitchedOff) => prop_assert_eq!(one.id, result(off)),
                Some(other) => prop_assert_eq!(*other, WhyOut::Facet { facet: Facet::Stage }),
            }
        }
    }

    /// Whatever the counts: shares of one, no NaN, and no prediction narrower than what is known of the mean.
    #[test]
    fn weights_are_shares_and_predictions_are_wider(cells in prop::collection::vec(prop::array::uniform4(0_u32..60), 1..9)) {
        let studies: Vec<Counts> = cells.into_iter().filter(|cells| cells.iter().sum::<u32>() > 0).map(counts).collect();
        prop_assume!(!studies.is_empty());
        let pooled = pool(&studies, PoolOptions::classical()).unwrap();
        let of = weights(&studies, &pooled);
        for shares in [of.iter().filter_map(|it| it.sensitivity).collect::<Vec<_>>(), of.iter().filter_map(|it| it.specificity).collect()] {
            let sum: f64 = shares.iter().sum();
            prop_assert!(shares.is_empty() || (sum - 1.0).abs() < 1e-9, "{sum}");
            prop_assert!(shares.iter().all(|share| (0.0..=1.0).contains(share)));
        }
        let found = prediction(&studies, &pooled);
        for (ahead, known) in [(found.sensitivity, pooled.summary.sensitivity), (found.specificity, pooled.summary.specificity)] {
            if let (Some(ahead), Some(known)) = (ahead, known) {
                prop_assert!(ahead.lower <= known.lower && ahead.upper >= known.upper);
            }
        }
        if let Some(ahead) = found.lr_positive {
            prop_assert!(!ahead.lower.get().is_nan() && ahead.lower <= ahead.estimate && ahead.estimate <= ahead.upper);
        }
    }
}
