//! Agreement results: what is pasted is read as people mean it, what cannot be read is named cell by cell, and the figures
//! are those of the reference.

use crate::common::json;
use proptest::prelude::*;
use pruvex_core::agreement::{AgreementNote, ReportedKind, SizeWord, Weights, size_word};
use pruvex_core::evidence::{
    Agreement, AgreementAnswer, AgreementInput, AgreementMeasure, AgreementMember, Between, FiguresInput,
    agreement_answer, pool_agreements,
};
use pruvex_core::{FieldError, Level};
use pruvex_core::{StudyId, TestId};
use uuid::Uuid;

/// Lines of cells parted by bars.
fn rows(text: &str) -> Vec<Vec<String>> {
    text.lines().map(|line| line.split('|').map(|cell| cell.trim().to_owned()).collect()).collect()
}
fn table(text: &str, weights: Weights) -> FiguresInput {
    FiguresInput::Table { rows: rows(text), weights }
}
fn answer(figures: &FiguresInput) -> Result<AgreementAnswer, Vec<FieldError>> {
    agreement_answer(figures, Level::default())
}
fn faults(figures: &FiguresInput) -> Vec<(String, String)> {
    answer(figures).unwrap_err().into_iter().map(|error| (error.field, error.value)).collect()
}
fn headline(figures: &FiguresInput) -> (AgreementMeasure, f64) {
    let first = answer(figures).unwrap().headline.unwrap();
    (first.measure, first.estimate.estimate)
}
fn reported(kind: ReportedKind, value: Option<f64>, se: Option<f64>, bounds: [Option<f64>; 2]) -> FiguresInput {
    let [lower, upper] = bounds;
    FiguresInput::Reported { coefficient: kind, value, se, lower, upper, subjects: Some(40.0), raters: None }
}

#[test]
fn tables_are_read_with_and_without_names_and_equal_the_reference() {
    let mut compared = 0;
    for item in json("kappa.json").as_array().unwrap().iter().filter(|item| item["type"] == "two_raters") {
        let cells: Vec<Vec<u32>> = serde_json::from_value(item["table_rows_rater1_cols_rater2"].clone()).unwrap();
        let bare: Vec<Vec<String>> = cells.iter().map(|row| row.iter().map(ToString::to_string).collect()).collect();
        let names: Vec<String> = (0..cells.len()).map(|i| format!("grade {}", char::from(b'a' + i as u8))).collect();
        let mut head = names.clone();
        head.insert(0, String::new());
        let mut named = vec![head];
        named.extend(bare.iter().zip(&names).map(|(row, name)| {
            let mut line = vec![name.clone()];
            line.extend(row.iter().cloned());
            line
        }));
        let Some(expected) = item["kappa_unweighted"]["kappa"].as_f64() else { continue };
        for (rows, categories) in [(bare, Vec::new()), (named, names)] {
            let found = answer(&FiguresInput::Table { rows, weights: Weights::None }).unwrap();
            let first = found.headline.unwrap();
            assert!((first.estimate.estimate - expected).abs() < 1e-8, "{}", item["id"]);
            assert_eq!((found.categories, found.subjects), (categories, item["n"].as_u64()));
        }
        compared += 1;
    }
    assert!(compared >= 10);
}

#[test]
fn weights_choose_the_coefficient_that_is_read_first() {
    let cells = "31|5|1\n6|12|4\n1|3|21";
    let value = |weights| headline(&table(cells, weights));
    let [plain, linear, quadratic] = [Weights::None, Weights::Linear, Weights::Quadratic].map(value);
    assert!(plain.1 < linear.1 && linear.1 < quadratic.1);
    assert_eq!((linear.0, quadratic.0), (AgreementMeasure::KappaLinear, AgreementMeasure::KappaQuadratic));
    // Of two categories there are no near misses.
    assert_eq!(headline(&table("40|9\n6|45", Weights::Quadratic)).0, AgreementMeasure::Kappa);
}

#[test]
fn every_cell_that_cannot_be_read_is_named_where_it_stands() {
    let of = |text| faults(&table(text, Weights::None));
    let place = |field: &str, value: &str| (format!("figures.rows{field}"), value.to_owned());
    assert_eq!(
        of("|yes|no\nyes|40|-3\nno|6.5|1 000"),
        [place("[1][2]", "-3"), place("[2][1]", "6.5"), place("[2][2]", "1 000")]
    );
    assert_eq!(of("40|9\n|\n6|"), [place("[1][1]", "")]);
    assert_eq!(of("|yes|no\nyes|40|9\nno|6|45|51"), [place("[2]", "")]);
    // Rows and columns in different order: agreement would not stand on the diagonal.
    assert_eq!(of("|yes|no\nno|40|9\nyes|6|45"), [place("", "yes, no")]);
    assert_eq!(of("0|0\n0|0"), [place("", "")]);
    assert_eq!(of(""), [place("", "")]);
    assert_eq!(of("40|x\n6|45"), [place("[0][1]", "x")]);
    // Grades that are numbers frame the table; a cell that is missing in the corner does not.
    assert_eq!(answer(&table("|1|2\n1|40|9\n2|6|45", Weights::None)).unwrap().categories, ["1", "2"]);
    assert_eq!(of("|5|1\n6|12|4\n1|3|21"), [place("[0][0]", "")]);
    let many = FiguresInput::Ratings { rows: vec![vec!["1".to_owned(); 2]; 5_001], weights: Weights::None };
    assert_eq!(faults(&many), [place("", "5001")]);
    let alone = FiguresInput::Ratings { rows: rows("yes|no\nyes|"), weights: Weights::None };
    assert_eq!(faults(&alone), [place("[1][1]", "")]);
}

#[test]
fn measurements_keep_their_decimals_and_lose_their_names() {
    let read = |text: &str| answer(&FiguresInput::Measurements { rows: rows(text), unit: "mm".to_owned() });
    let plain = read("9|2|5|8\n6|1|3|2\n8|4|6|8\n7|1|2|6\n10|5|6|9\n6|2|4|7").unwrap();
    // The data of Shrout and Fleiss (1979): ICC(2,1) is 0.29.
    assert!((plain.headline.unwrap().estimate.estimate - 0.2898).abs() < 5e-5);
    let named = read("who|A|B|C|D\nP1|9,0|2|5|8\nP2|6|1|3|2\nP3|8|4|6|8\nP4|7|1|2|6\nP5|10|5|6|9\nP6|6|2|4|7");
    assert_eq!(named.unwrap().headline, plain.headline);
    // Values with a unit are refused one by one, not taken for names.
    assert_eq!(read("6mm|5mm\n4mm|3mm").unwrap_err().len(), 4);
    assert_eq!(read("|5\n4|3\n6|2").unwrap_err().len(), 1);
    assert_eq!(read("1,234|2\n3|4\n0,125|5").unwrap_err().len(), 1);
    let same = read("4|4\n4|4\n4|4").unwrap();
    assert_eq!((same.headline, same.notes), (None, vec![AgreementNote::NoVariation]));
}

#[test]
fn three_raters_are_answered_by_fleiss_and_a_rare_finding_by_a_warning() {
    let three = FiguresInput::Ratings { rows: rows("a|a|a\nb|b|a\nb|b|b\na|a|b"), weights: Weights::None };
    let found = answer(&three).unwrap();
    assert_eq!((found.raters, found.headline.unwrap().measure), (Some(3), AgreementMeasure::FleissKappa));
    let one_word = FiguresInput::Ratings { rows: rows("a|a|a\na|a|a"), weights: Weights::None };
    assert_eq!(faults(&one_word).len(), 1);
    let rare = answer(&table("2|4\n5|97", Weights::None)).unwrap();
    assert!(matches!(rare.notes[..], [AgreementNote::KappaParadox { .. }]));
}

#[test]
fn a_printed_coefficient_needs_its_precision() {
    let of = |figures: &FiguresInput| faults(figures).into_iter().map(|(field, _)| field).collect::<Vec<_>>();
    let kappa = ReportedKind::Kappa;
    let fine = answer(&reported(kappa, Some(0.7), None, [Some(0.55), Some(0.85)])).unwrap();
    assert_eq!((fine.subjects, fine.raters), (Some(40), None));
    // An interval is shown as it is printed, also one that is not quite symmetric on any scale.
    let printed = answer(&reported(ReportedKind::Icc, Some(0.86), None, [Some(0.75), Some(0.92)])).unwrap();
    let shown = printed.headline.unwrap().estimate;
    assert_eq!((shown.estimate, shown.lower, shown.upper), (0.86, 0.75, 0.92));
    assert_eq!(fine.headline.unwrap().size.word, SizeWord::Substantial);
    assert_eq!(headline(&reported(kappa, Some(0.7), Some(0.1), [None; 2])).0, AgreementMeasure::ReportedKappa);
    assert_eq!(of(&reported(kappa, Some(0.7), None, [None; 2])), ["figures.lower"]);
    assert_eq!(of(&reported(kappa, Some(0.7), None, [Some(0.6), None])), ["figures.upper"]);
    assert_eq!(of(&reported(kappa, None, Some(0.1), [None; 2])), ["figures.value"]);
    for (kind, value, bounds) in [
        (kappa, 0.9, [Some(0.5), Some(0.8)]),
        (kappa, 70.0, [Some(60.0), Some(80.0)]),
        (ReportedKind::Icc, 1.0, [Some(0.9), Some(1.0)]),
        (kappa, f64::NAN, [Some(0.1), Some(0.2)]),
    ] {
        assert_eq!(of(&reported(kind, Some(value), None, bounds)), ["figures.value"]);
    }
}

#[test]
fn words_change_at_the_published_bounds() {
    let kappa = |value| size_word(ReportedKind::Kappa, value).word;
    assert_eq!(
        [-0.01, 0.2, 0.4, 0.6, 0.8, 0.81].map(kappa),
        [
            SizeWord::Poor,
            SizeWord::Slight,
            SizeWord::Fair,
            SizeWord::Moderate,
            SizeWord::Substantial,
            SizeWord::AlmostPerfect
        ]
    );
    let icc = |value| size_word(ReportedKind::Icc, value).word;
    assert_eq!(
        [0.49, 0.75, 0.9, 0.91].map(icc),
        [SizeWord::Poor, SizeWord::Moderate, SizeWord::Good, SizeWord::Excellent]
    );
}

fn cell() -> impl Strategy<Value = String> {
    prop_oneof![4 => (0u32..40).prop_map(|n| n.to_string()), 1 => "[a-c]", 1 => "-?[0-9]{0,3}[.,]?[0-9]{0,3}", 1 => Just(String::new())]
}
fn figures() -> impl Strategy<Value = FiguresInput> {
    let grid = prop::collection::vec(prop::collection::vec(cell(), 0..5), 0..8);
    let weights = prop_oneof![Just(Weights::None), Just(Weights::Linear), Just(Weights::Quadratic)];
    (grid, weights, 0..3).prop_map(|(rows, weights, kind)| match kind {
        0 => FiguresInput::Table { rows, weights },
        1 => FiguresInput::Ratings { rows, weights },
        _ => FiguresInput::Measurements { rows, unit: String::new() },
    })
}

proptest! {
    #[test]
    fn whatever_is_pasted_is_answered_or_refused_and_what_was_kept_is_kept_again(figures in figures()) {
        let input = AgreementInput { figures, ..AgreementInput::default() };
        match Agreement::check(&input) {
            Err(errors) => prop_assert!(!errors.is_empty() && errors.iter().all(|it| !it.remedy.is_empty())),
            Ok(agreement) => {
                let found = agreement.answer(Level::default());
                if let Some(first) = found.headline {
                    let value = first.estimate;
                    prop_assert!([value.estimate, value.lower, value.upper].iter().all(|it| it.is_finite()));
                    prop_assert!(value.lower <= value.estimate && value.estimate <= value.upper);
                } else {
                    prop_assert!(!found.notes.is_empty());
                }
                prop_assert_eq!(Agreement::check(agreement.written()).unwrap(), agreement);
            }
        }
    }
}

#[test]
fn agreement_is_pooled_by_test_by_raters_and_by_coefficient_and_low_agreement_says_so() {
    let result = |figures: FiguresInput, between| {
        Agreement::check(&AgreementInput { figures, between, ..AgreementInput::default() }).unwrap()
    };
    let kappa = |value, se| reported(ReportedKind::Kappa, Some(value), Some(se), [None; 2]);
    let (examiners, occasions) = (Between::Examiners, Between::Occasions);
    let results = [
        (1, 1, result(kappa(0.3, 0.1), examiners)),
        (1, 2, result(kappa(0.5, 0.1), examiners)),
        (1, 2, result(kappa(0.9, 0.1), examiners)),
        (1, 3, result(kappa(0.8, 0.05), occasions)),
        (1, 4, result(reported(ReportedKind::Icc, Some(0.95), None, [Some(0.9), Some(0.975)]), examiners)),
        (2, 1, result(table("9|1\n3|7", Weights::None), examiners)),
        (2, 5, result(table("20|20\n20|20", Weights::None), examiners)),
    ];
    let members: Vec<AgreementMember<'_>> = results
        .iter()
        .map(|(test, study, agreement)| AgreementMember {
            test: TestId(Uuid::from_u128(*test)),
            study: StudyId(Uuid::from_u128(*study)),
            sample: *study == 2,
            agreement,
        })
        .collect();
    let found = pool_agreements(&members, Level::default());
    let said: Vec<(u128, Between, AgreementMeasure, usize, u64, bool, bool)> = found
        .iter()
        .map(|it| (it.test.0.as_u128(), it.between, it.measure, it.k, it.subjects, it.sample, it.low))
        .collect();
    assert_eq!(
        said,
        [
            (1, examiners, AgreementMeasure::Kappa, 2, 80, true, true),
            (1, occasions, AgreementMeasure::Kappa, 1, 40, false, false),
            (1, examiners, AgreementMeasure::IccAgreement, 1, 40, false, false),
            (2, examiners, AgreementMeasure::Kappa, 2, 100, false, true),
        ],
        "the same people count once"
    );
    // Two results of equal weight: their mean; the spread between them is (0.2^2 / 2 - 0.01) at the moments' and the likelihood's estimate.
    assert!((found[0].estimate.estimate - 0.4).abs() < 1e-9 && found[0].size.word == SizeWord::Fair, "{:?}", found[0]);
    let half = 1.959_963_984_540_054 * (0.02_f64 / 2.0).sqrt();
    assert!((found[0].estimate.upper - 0.4 - half).abs() < 1e-6, "{:?}", found[0]);
    assert_eq!((found[1].estimate.estimate, found[1].i2), (0.8, None), "one result is itself");
    assert!((found[2].estimate.lower - 0.9).abs() < 1e-9, "and so is its interval");
}
