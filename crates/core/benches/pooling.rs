//! Time of fits, of leaving each study out, and of rebuilding a table: `cargo bench -p pruvex-core --bench pooling`.
#![allow(clippy::expect_used, reason = "the counts below are valid by construction")]

use std::hint::black_box;

use criterion::{BenchmarkId, Criterion, criterion_group, criterion_main};
use pruvex_core::accuracy::{Counts, Fact, Figure, Rounded, Total, rebuild};
use pruvex_core::pooling::{PoolOptions, leave_one_out, pool};

/// Deterministic, plausible counts: arms of 20-120 people, sensitivity about 0.7 and specificity about 0.85,
/// both varying between studies.
fn studies(k: u64) -> Vec<Counts> {
    let mut state = 20_260_101_u64;
    let mut uniform = move || {
        state = state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (state >> 11) as f64 / (1_u64 << 53) as f64
    };
    let mut normal = move || (0..12).map(|_| uniform()).sum::<f64>() - 6.0;
    (0..k)
        .map(|i| {
            let (a, b) = (normal(), normal());
            let (n1, n0) = (20 + (i * 37) % 100, 20 + (i * 53) % 100);
            let share = |logit: f64, n: u64| (n as f64 / (1.0 + (-logit).exp())).round();
            let tp = share(0.85 + 0.6 * a + 0.2 * normal(), n1);
            let tn = share(1.7 - 0.4 * a + 0.6 * b + 0.2 * normal(), n0);
            Counts::full(tp, n0 as f64 - tn, n1 as f64 - tp, tn).expect("valid counts")
        })
        .collect()
}

fn fits(criterion: &mut Criterion) {
    let mut group = criterion.benchmark_group("bivariate_fit");
    for k in [10, 30, 100, 300] {
        let data = studies(k);
        group.bench_with_input(BenchmarkId::from_parameter(k), &data, |bencher, data| {
            bencher.iter(|| pool(black_box(data), PoolOptions::default()));
        });
    }
    group.finish();
}

fn influence(criterion: &mut Criterion) {
    let data = studies(30);
    criterion.bench_function("leave_one_out_30", |bencher| {
        bencher.iter(|| leave_one_out(black_box(&data), PoolOptions::default()));
    });
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

criterion_group!(benches, fits, influence, tables);
criterion_main!(benches);
