//! Time of fits, of profile intervals, of leaving each study out, and of rebuilding a table: `cargo bench -p pruvex-core --bench pooling`.
#![allow(clippy::expect_used, reason = "the counts are valid by construction")]

use std::hint::black_box;

use criterion::{BenchmarkId, Criterion, criterion_group, criterion_main};
use pruvex_core::Level;
use pruvex_core::accuracy::{Counts, Fact, Figure, Rounded, Total, rebuild};
use pruvex_core::pooling::{Fineness, IntervalChoice, PoolOptions, PriorScales, leave_one_out, pool, posterior};

/// The studies that `benches/glmer.R` fits, too: arms of 20 to 200 people, both accuracies varying between studies.
fn studies(k: u64) -> Vec<Counts> {
    let path = format!("{}/benches/data/studies_{k}.csv", env!("CARGO_MANIFEST_DIR"));
    let mut reader = csv::Reader::from_path(path).expect("the data stand beside the benchmark");
    let rows = reader.deserialize::<[f64; 4]>().map(|row| row.expect("four counts"));
    rows.map(|[tp, fp, fn_, tn]| Counts::full(tp, fp, fn_, tn).expect("valid counts")).collect()
}

/// Sixty studies of a few people each, most arms all right or all wrong: the hardest to integrate.
fn sparse() -> Vec<Counts> {
    let row = |i: u64| {
        let (n1, n0) = (1 + (i * 7) % 6, 1 + (i * 5) % 6);
        let (missed, false_alarms) = (if i % 9 == 4 { n1 } else { i % 11 / 10 }, if i % 7 == 3 { n0 } else { 0 });
        [n1 - missed.min(n1), false_alarms, missed.min(n1), n0 - false_alarms].map(|cell| cell as f64)
    };
    (0..60).map(row).map(|[tp, fp, fn_, tn]| Counts::full(tp, fp, fn_, tn).expect("valid counts")).collect()
}

fn fits(criterion: &mut Criterion) {
    let mut group = criterion.benchmark_group("bivariate_fit");
    for k in [10, 30, 100, 300] {
        let data = studies(k);
        group.bench_with_input(BenchmarkId::from_parameter(k), &data, |bencher, data| {
            bencher.iter(|| pool(black_box(data), PoolOptions::classical()));
        });
    }
    group.bench_function("sparse 60", |bencher| {
        let data = sparse();
        bencher.iter(|| pool(black_box(&data), PoolOptions::classical()));
    });
    group.finish();
}

fn intervals(criterion: &mut Criterion) {
    let mut group = criterion.benchmark_group("profile");
    let options = PoolOptions { interval: IntervalChoice::Profile, ..PoolOptions::classical() };
    for (name, data) in [("10", studies(10)), ("30", studies(30)), ("sparse 60", sparse())] {
        group.bench_function(name, |bencher| bencher.iter(|| pool(black_box(&data), options)));
    }
    group.finish();
}

fn posteriors(criterion: &mut Criterion) {
    let mut group = criterion.benchmark_group("posterior");
    group.sample_size(20);
    let twenty: Vec<Counts> = studies(30).into_iter().take(20).collect();
    for k in [2, 5, 10, 20] {
        group.bench_function(BenchmarkId::from_parameter(k), |bencher| {
            let data = &twenty[..k];
            bencher.iter(|| posterior(black_box(data), Level::default(), PriorScales::default(), Fineness::STANDARD));
        });
    }
    group.finish();
}

fn influence(criterion: &mut Criterion) {
    let mut group = criterion.benchmark_group("leave_one_out");
    for (name, data) in [("30", studies(30)), ("sparse 60", sparse())] {
        group.sample_size(10);
        group.bench_function(name, |bencher| {
            bencher.iter(|| leave_one_out(black_box(&data), PoolOptions::classical()));
        });
    }
    group.finish();
}

fn tables(criterion: &mut Criterion) {
    let figure = |figure, text| Fact::Figure { figure, value: Rounded::parse(text, false).expect("a number") };
    let mut group = criterion.benchmark_group("rebuild");
    let arms = [figure(Figure::Sensitivity, "0.78"), figure(Figure::Specificity, "0.84"), figure(Figure::Ppv, "0.75")];
    // Nothing is said of either group by itself: every size of both is tried.
    let joint =
        [figure(Figure::LrPositive, "3.214"), figure(Figure::LrNegative, "0.4321"), figure(Figure::Ppv, "0.7512")];
    for (name, n, figures) in [("200", 200, arms), ("5000", 5_000, arms), ("5000 joint", 5_000, joint)] {
        let facts = [[Fact::Total { total: Total::N, value: n }].as_slice(), &figures].concat();
        group.bench_with_input(BenchmarkId::from_parameter(name), &facts, |bencher, facts| {
            bencher.iter(|| rebuild(black_box(facts), 150));
        });
    }
    group.finish();
}

criterion_group!(benches, fits, intervals, posteriors, influence, tables);
criterion_main!(benches);
