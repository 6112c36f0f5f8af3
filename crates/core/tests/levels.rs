//! Levels of a finding: their ratios against the closed forms of two proportions, cuts against the 2x2 table, and pooling.

use proptest::prelude::*;
use pruvex_core::accuracy::{
    Counts, LevelCounts, LevelInput, Methods, ProportionMethod, check_levels, collapse, level_table,
    proportion_interval, score_ratio_interval, study_accuracy,
};
use pruvex_core::likelihood::{Finding, FoundLevel, FoundResult, chain};
use pruvex_core::pooling::{PoolError, PoolOptions, Pooled, pool, pool_level_ratios, sharing_levels};
use pruvex_core::{Count, Estimate, FieldErrorCode, Level, Probability};

fn levels(counts: &[(u32, u32)]) -> Vec<LevelCounts> {
    let count = |n: u32| Count::new(f64::from(n)).unwrap();
    let named = counts.iter().enumerate().map(|(place, (with, without))| LevelCounts {
        name: format!("grade {place}"),
        with: count(*with),
        without: count(*without),
    });
    named.collect()
}

fn input(rows: &[(&str, Option<f64>, Option<f64>)]) -> Vec<LevelInput> {
    rows.iter()
        .map(|(name, with, without)| LevelInput { name: (*name).to_owned(), with: *with, without: *without })
        .collect()
}

/// As the tables of any results are pooled.
fn as_usual(tables: &[Counts]) -> Result<Pooled, PoolError> {
    pool(tables, PoolOptions::default())
}

/// Made up: four grades in 60 people with and 90 without the condition. Ratios by hand: `(x/60) / (y/90)`.
#[test]
fn each_level_has_the_ratio_of_its_two_shares() {
    let table = level_table(&levels(&[(6, 45), (12, 30), (18, 12), (24, 3)]), Level::default());
    let ratios: Vec<f64> = table.levels.iter().map(|it| it.ratio.unwrap().estimate.get()).collect();
    for (found, expected) in ratios.iter().zip([0.2, 0.6, 2.25, 12.0]) {
        assert!((found - expected).abs() < 1e-12, "{found} {expected}");
    }
    let interval = table.levels[3].ratio.unwrap();
    assert_eq!(interval, score_ratio_interval((24, 60), (3, 90), Level::default()).unwrap());
    let share = proportion_interval(24, 60, Level::default(), ProportionMethod::default());
    assert_eq!(table.levels[3].share_with, share);
    assert_eq!(table.cuts.iter().map(|cut| cut.from.as_str()).collect::<Vec<_>>(), ["grade 1", "grade 2", "grade 3"]);
    assert_eq!(
        table.cuts[1].accuracy,
        study_accuracy(&Counts::full(42.0, 15.0, 18.0, 75.0).unwrap(), Methods::default())
    );
    let empty = level_table(&levels(&[(0, 9), (0, 0), (5, 0)]), Level::default());
    assert!(empty.levels[1].ratio.is_none(), "nobody is there");
    assert_eq!(empty.levels[2].ratio.unwrap().estimate.get(), f64::INFINITY);
}

#[test]
fn levels_that_do_not_fit_the_four_cells_are_refused() {
    let cells = Counts::full(42.0, 15.0, 18.0, 75.0).unwrap();
    let good = [
        ("none", Some(6.0), Some(45.0)),
        ("some", Some(12.0), Some(30.0)),
        ("more", Some(18.0), Some(12.0)),
        ("most", Some(24.0), Some(3.0)),
    ];
    assert_eq!(check_levels(&input(&good), Some(&cells)).unwrap().len(), 4);
    assert_eq!(check_levels(&[LevelInput::default()], Some(&cells)).unwrap(), []);
    // An equivocal level between them stands in none of the cells.
    let without_middle = Counts::full(24.0, 3.0, 6.0, 45.0).unwrap();
    assert!(check_levels(&input(&good), Some(&without_middle)).is_ok());
    let refused = |rows: &[(&str, Option<f64>, Option<f64>)], cells: &Counts| {
        let errors = check_levels(&input(rows), Some(cells)).unwrap_err();
        errors.into_iter().map(|error| (error.field, error.code)).collect::<Vec<_>>()
    };
    let at = |field: &str, code| vec![(field.to_owned(), code)];
    use FieldErrorCode as E;
    assert_eq!(refused(&good, &Counts::full(42.0, 16.0, 18.0, 74.0).unwrap()), at("levels", E::Invalid));
    let turned: Vec<_> = good.iter().rev().copied().collect();
    assert_eq!(refused(&turned, &cells), at("levels", E::Invalid), "the most normal comes first");
    assert_eq!(refused(&good[..1], &cells), at("levels", E::Invalid));
    assert_eq!(refused(&[good[0], ("NONE ", Some(1.0), Some(1.0))], &cells)[0], at("levels[1].name", E::Duplicate)[0]);
    assert_eq!(refused(&[good[0], ("x", Some(1.5), Some(1.0))], &cells), at("levels[1].with", E::NotACount));
    assert_eq!(refused(&[good[0], ("x", Some(1.0), None)], &cells), at("levels[1].without", E::Missing));
    let one_armed =
        Counts::check(pruvex_core::accuracy::RawCounts { tp: Some(42.0), fn_: Some(18.0), fp: None, tn: None })
            .unwrap();
    assert_eq!(refused(&good, &one_armed), at("levels", E::Invalid));
}

#[test]
fn only_studies_that_share_their_levels_are_pooled() {
    let (a, b) = (levels(&[(6, 45), (12, 30), (42, 15)]), levels(&[(3, 20), (9, 12), (20, 4)]));
    let other = levels(&[(1, 9), (5, 2)]);
    assert_eq!(sharing_levels(&[&other, &a, &[], &b]), [1, 3]);
    assert_eq!(sharing_levels(&[&other, &a]), [0], "the first of equals");
    assert!(sharing_levels(&[&[]]).is_empty());
    let pooled = pool_level_ratios(&[&a, &b], as_usual).unwrap();
    assert_eq!((pooled.len(), pooled[2].with, pooled[2].without), (3, 62, 19));
    let against = [Counts::full(42.0, 15.0, 18.0, 75.0).unwrap(), Counts::full(20.0, 4.0, 12.0, 32.0).unwrap()];
    assert_eq!(pooled[2].ratio, pool(&against, PoolOptions::default()).unwrap().summary.lr_positive);
    assert_eq!(pool_level_ratios(&[&a, &other], as_usual).unwrap(), []);
    let nobody = levels(&[(5, 9), (0, 0), (4, 1)]);
    assert!(pool_level_ratios(&[&nobody], as_usual).unwrap()[1].ratio.is_none());
}

proptest! {
    /// Shares add up; ratios average to one over the people without the condition; every cut is the plain 2x2 table; two levels are LR- and LR+; and
    /// what was checked is what the cells say.
    #[test]
    fn levels_collapse_to_the_plain_result(counts in prop::collection::vec((0..400_u32, 0..400_u32), 2..7)) {
        let levels = levels(&counts);
        let table = level_table(&levels, Level::default());
        let sum = |of: fn(&(u32, u32)) -> u32| counts.iter().map(|it| u64::from(of(it))).sum::<u64>();
        let (n, m) = (sum(|it| it.0), sum(|it| it.1));
        if n > 0 && m > 0 {
            let shares: f64 = table.levels.iter().map(|it| it.share_with.unwrap().estimate.get()).sum();
            prop_assert!((shares - 1.0).abs() < 1e-12);
            let finite = table.levels.iter().filter(|it| it.counts.without.get() > 0);
            let weighted: f64 = finite.clone().map(|it| it.share_without.unwrap().estimate.get() * it.ratio.unwrap().estimate.get()).sum();
            let seen: f64 = finite.map(|it| it.share_with.unwrap().estimate.get()).sum();
            prop_assert!((weighted - seen).abs() < 1e-9);
        }
        for it in &table.levels {
            if let Some(ratio) = it.ratio {
                prop_assert!(ratio.lower <= ratio.estimate && ratio.estimate <= ratio.upper);
            }
        }
        for from in 0..=levels.len() {
            let Some(collapsed) = collapse(&levels, from) else {
                prop_assert!(from == 0 || from == levels.len() || n == 0 || m == 0);
                continue;
            };
            let cut = table.cuts.iter().find(|cut| cut.from == levels[from].name).unwrap();
            prop_assert_eq!(&cut.accuracy, &study_accuracy(&collapsed, Methods::default()));
            let written: Vec<LevelInput> = levels.iter().map(|it| LevelInput {
                name: it.name.clone(), with: Some(f64::from(it.with.get())), without: Some(f64::from(it.without.get())),
            }).collect();
            prop_assert_eq!(check_levels(&written, Some(&collapsed)).unwrap(), levels.clone());
            if levels.len() == 2 && n > 0 && m > 0 {
                prop_assert_eq!(table.levels[1].ratio, cut.accuracy.lr_positive);
                prop_assert_eq!(table.levels[0].ratio, cut.accuracy.lr_negative);
            }
        }
    }
}

/// Two levels are a positive and a negative result, and of more each moves the probability by its own ratio, whatever other tests say.
#[test]
fn a_level_stands_in_a_chain_by_its_own_ratio() {
    let p = |share: f64| Probability::new(share).unwrap();
    let before = Estimate { estimate: p(0.3), lower: p(0.3), upper: p(0.3) };
    let studies = [levels(&[(6, 45), (12, 30), (18, 12), (24, 3)]), levels(&[(5, 20), (9, 16), (11, 10), (20, 4)])];
    let all: Vec<&[LevelCounts]> = studies.iter().map(Vec::as_slice).collect();
    let pooled = pool_level_ratios(&all, as_usual).unwrap();
    let plain = as_usual(&[collapse(&studies[0], 2), collapse(&studies[1], 2)].map(Option::unwrap)).unwrap().summary;
    let level = |place| Finding { summary: plain, result: FoundResult::Level(FoundLevel::of(&pooled, place).unwrap()) };
    let positive = Finding { summary: plain, result: FoundResult::Positive };
    for (place, of) in pooled.iter().enumerate() {
        let one = chain(before, &[level(place)], 0.0, Level::default()).unwrap();
        assert_eq!(one.steps[0].lr, of.ratio);
        // Independent, the two end where the product of their ratios does; the closer they depend, the less both tell.
        let apart = chain(before, &[level(3), level(place)], 0.0, Level::default()).unwrap();
        let dependence = apart.dependence.unwrap();
        let distance = dependence.dependent.unwrap().get() - dependence.independent.get();
        assert!(distance.abs() < 1e-9, "{place}: {distance}");
    }
    let worth = |correlation| {
        let both = chain(before, &[positive, level(3)], correlation, Level::default()).unwrap();
        both.dependence.unwrap().dependent.unwrap().get()
    };
    assert!(worth(0.0) > worth(0.5) && worth(0.5) > worth(0.9) && worth(0.9) > 0.3);
    assert!(FoundLevel::of(&pooled, 4).is_none());
}
