//! A ladder in print: whatever stands on it, it can be set.

#![allow(clippy::unwrap_used, reason = "a failed step is a failed test")]

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

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn every_ladder_can_be_set(
        tests in prop::collection::vec((any::<String>(), 0..9usize, any::<bool>(), [ratio(), ratio()], [ratio(), ratio()]), 0..6),
        title in any::<String>(),
    ) {
        let tests = tests
            .into_iter()
            .map(|(name, studies, sample, ratios, ahead)| LadderTest { name, studies, sample, ratios, ahead })
            .collect();
        let of = ladder(tests, &title);
        let svg = ladder_figure(&of, FigureFormat::Svg).unwrap();
        prop_assert!(svg.starts_with(b"<svg"));
        prop_assert_eq!(&ladder_figure(&of, FigureFormat::Svg).unwrap(), &svg, "the same bytes again");
    }
}
