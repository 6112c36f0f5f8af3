//! A pool in print: whatever is in it, it can be set, and the table behind it holds the core's numbers.

use proptest::prelude::*;
use pruvex_core::accuracy::Counts;
use pruvex_core::pooling::{PoolOptions, pool, prediction, roc_space, weights};
use pruvex_formats::{FigureFormat, FigureGroup, FigureRow, PoolFigure, pool_csv, pool_figure};

fn figure(tables: &[[u32; 4]], report: &str, split: bool) -> PoolFigure {
    let counts: Vec<Counts> = tables
        .iter()
        .map(|cells| cells.map(f64::from))
        .map(|[tp, fp, fn_, tn]| Counts::full(tp, fp, fn_, tn).unwrap())
        .collect();
    let pooled = pool(&counts, PoolOptions::default()).unwrap();
    let rows: Vec<FigureRow> = counts
        .iter()
        .zip(weights(&counts, &pooled))
        .map(|(counts, weight)| FigureRow {
            report: report.to_owned(),
            differs: String::new(),
            sample: true,
            counts: *counts,
            weight,
        })
        .collect();
    let group = |title: &str, rows: &[FigureRow]| {
        let own: Vec<Counts> = rows.iter().map(|row| row.counts).collect();
        FigureGroup { title: title.to_owned(), rows: rows.to_vec(), pooled: pool(&own, PoolOptions::default()).ok() }
    };
    let groups = if split {
        rows.chunks(1).enumerate().map(|(nth, rows)| group(&format!("{report} {nth}"), rows)).collect()
    } else {
        vec![FigureGroup { pooled: None, ..group("", &rows) }]
    };
    PoolFigure {
        title: report.to_owned(),
        condition: "Weak thumb".to_owned(),
        groups,
        prediction: prediction(&counts, &pooled),
        roc: (!split).then(|| roc_space(&pooled, &counts)).flatten(),
        pooled: Some(pooled),
        sample: true,
        printed: "26 November 2026".to_owned(),
    }
}

#[test]
fn the_table_behind_a_figure_holds_its_numbers() {
    let of = figure(&[[40, 6, 10, 44], [30, 9, 20, 61], [45, 4, 15, 36], [25, 8, 5, 32]], "=Sum, \"of\" it", false);
    let csv = pool_csv(&of).unwrap();
    let mut reader = csv::Reader::from_reader(csv.as_bytes());
    let head = reader.headers().unwrap().clone();
    let lines: Vec<csv::StringRecord> = reader.records().map(Result::unwrap).collect();
    let at = |line: usize, name: &str| lines[line][head.iter().position(|it| it == name).unwrap()].to_owned();
    assert_eq!(lines.len(), 4 + 2);
    assert_eq!((at(0, "tp"), at(0, "fn"), at(0, "sensitivity")), ("40".to_owned(), "10".to_owned(), "0.8".to_owned()));
    assert!(at(0, "report").starts_with('\''), "a cell that begins with = is no formula");
    let summary = of.pooled.as_ref().unwrap().summary.specificity.unwrap();
    assert_eq!(at(4, "specificity_lower").parse::<f64>().unwrap(), summary.lower.get());
    assert_eq!((at(5, "row").as_str(), at(5, "sample").as_str()), ("prediction", "sample data"));
}

#[test]
fn the_same_pool_gives_the_same_file_and_a_bitmap_is_sharp() {
    let of = figure(&[[40, 6, 10, 44], [30, 9, 20, 61], [45, 4, 15, 36], [25, 8, 5, 32]], "Report", false);
    for format in [FigureFormat::Pdf, FigureFormat::Svg, FigureFormat::Png] {
        assert!(pool_figure(&of, format).unwrap() == pool_figure(&of, format).unwrap(), "{format:?}");
    }
    let png = pool_figure(&of, FigureFormat::Png).unwrap();
    let width = u32::from_be_bytes(png[16..20].try_into().unwrap());
    assert_eq!(width, 2154, "190 mm at 288 pixels per inch");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// Zero cells, one study, many values, and words that would be markup: all of it can be set.
    #[test]
    fn any_pool_can_be_set(
        tables in prop::collection::vec(prop::array::uniform4(0_u32..40), 1..9),
        report in "[#$*_\\[\\]<>@=`\\\\a-zäß\u{5d0}\u{4e2d} ]{0,40}",
        split in any::<bool>(),
    ) {
        let tables: Vec<[u32; 4]> = tables.into_iter().filter(|cells| cells[0] + cells[2] > 0 && cells[1] + cells[3] > 0).collect();
        prop_assume!(!tables.is_empty());
        let of = figure(&tables, &report, split);
        prop_assert!(pool_figure(&of, FigureFormat::Svg).unwrap().starts_with(b"<svg"));
        prop_assert_eq!(pool_csv(&of).unwrap().lines().count(), 1 + tables.len() * if split { 2 } else { 1 } + 2);
    }
}
