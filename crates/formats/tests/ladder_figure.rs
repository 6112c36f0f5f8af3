//! A ladder in print: whatever stands on it, it can be set.

use proptest::prelude::*;
use pruvex_core::{Estimate, Ratio};
use pruvex_formats::{FigureFormat, LadderFigure, LadderTest, ladder_figure};

fn ladder(tests: Vec<LadderTest>, title: &str) -> LadderFigure {
    LadderFigure {
        title: title.to_owned(),
        groups: vec![(title.to_owned(), tests.clone()), (String::new(), tests)],
        printed: "26 November 2026".to_owned(),
    }
}

fn ratio() -> impl Strategy<Value = Option<Estimate<Ratio>>> {
    let value = prop_oneof![Just(0.0), Just(f64::INFINITY), 1e-6..1e6f64];
    prop::option::of([value.clone(), value.clone(), value]).prop_map(|of| {
        let mut of = of?;
        of.sort_by(f64::total_cmp);
        let [lower, estimate, upper] = of.map(|it| Ratio::new(it).unwrap());
        Some(Estimate { estimate, lower, upper })
    })
}

#[test]
fn a_long_ladder_gets_coarser_and_not_larger_than_memory() {
    let test = |nth: usize| LadderTest {
        name: format!("Sign {nth}"),
        studies: 0,
        looked_for: nth.is_multiple_of(2),
        sample: false,
        ratios: [None; 2],
        ahead: [None; 2],
    };
    let size = |tests: usize| {
        let of =
            LadderFigure { groups: vec![(String::new(), (0..tests).map(test).collect())], ..ladder(vec![], "Long") };
        let png = ladder_figure(&of, FigureFormat::Png).unwrap();
        // Width and height stand in the first chunk.
        let number = |at: usize| f64::from(u32::from_be_bytes(png[at..at + 4].try_into().unwrap()));
        (number(16), number(20))
    };
    let (width, short) = size(3);
    assert!((width - 190.0 / 25.4 * 288.0).abs() < 2.0, "288 pixels per inch: {width}");
    let (narrower, long) = size(200);
    assert!(narrower < width && long > short && narrower * long < 41e6, "{narrower} x {long}");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn every_ladder_can_be_set(
        tests in prop::collection::vec((any::<String>(), 0..9usize, any::<bool>(), [ratio(), ratio()], [ratio(), ratio()]), 0..6),
        title in any::<String>(),
    ) {
        let tests = tests
            .into_iter()
            .map(|(name, studies, sample, ratios, ahead)| LadderTest { name, studies, looked_for: studies == 0 && sample, sample, ratios, ahead })
            .collect();
        let of = ladder(tests, &title);
        let svg = ladder_figure(&of, FigureFormat::Svg).unwrap();
        prop_assert!(svg.starts_with(b"<svg"));
        prop_assert_eq!(&ladder_figure(&of, FigureFormat::Svg).unwrap(), &svg, "the same bytes again");
    }
}
