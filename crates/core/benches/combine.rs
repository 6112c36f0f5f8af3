//! Time of a battery with dependence and of ordering an examination: `cargo bench -p pruvex-core --bench combine`.
#![allow(clippy::expect_used, reason = "the figures are valid by construction")]

use std::hint::black_box;

use criterion::{BenchmarkId, Criterion, criterion_group, criterion_main};
use pruvex_core::combine::{
    BatteryDependence, BatteryTest, LatentCorrelation, battery, each_test_left_out, rules_by_correlation,
};
use pruvex_core::plan::{OrderWeights, PlannedTest, best_order};
use pruvex_core::{Estimate, Probability};

fn share(percent: usize) -> Estimate<Probability> {
    let at = |value: usize| Probability::new(value as f64 / 100.0).expect("a share");
    Estimate::new(at(percent), at(percent - 12), at(percent + 8)).expect("an interval")
}

fn batteries(criterion: &mut Criterion) {
    let mut group = criterion.benchmark_group("battery with dependence, with all that its page shows");
    for n in [2, 5, 8] {
        let tests: Vec<BatteryTest> = (0..n)
            .map(|i| BatteryTest { sensitivity: share(60 + 3 * i), specificity: share(85 - 2 * i), correlation: -0.2 })
            .collect();
        let dependence = BatteryDependence::Latent(LatentCorrelation { diseased: 0.5, non_diseased: 0.5 });
        group.bench_with_input(BenchmarkId::from_parameter(n), &tests, |bencher, tests| {
            bencher.iter(|| {
                let singles: Vec<_> = tests.iter().map(BatteryTest::accuracy).collect();
                let answer = battery(black_box(tests), dependence);
                (answer, each_test_left_out(tests, 2, dependence), rules_by_correlation(&singles))
            });
        });
    }
    group.finish();
}

fn orders(criterion: &mut Criterion) {
    let mut group = criterion.benchmark_group("order of an examination");
    group.sample_size(20);
    for n in [12_u32, 16, 40] {
        let tests: Vec<PlannedTest> = (0..n)
            .map(|i| PlannedTest {
                position: i * 7 % 5,
                one_attempt: i % 4 == 1,
                irritation: f64::from(i * 5 % 4),
                bits: f64::from(i * 11 % 17) / 20.0,
                keep_last: i == 3,
                frame: i == 6,
            })
            .collect();
        group.bench_with_input(BenchmarkId::from_parameter(n), &tests, |bencher, tests| {
            bencher.iter(|| best_order(black_box(tests), &OrderWeights::default(), &[(0, 5), (5, 9)]));
        });
    }
    group.finish();
}

criterion_group!(benches, batteries, orders);
criterion_main!(benches);
