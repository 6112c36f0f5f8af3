//! The order of an examination: little turning over, irritating tests late, tests with one valid attempt before them, informative tests early.

use std::collections::HashMap;

use serde::{Deserialize, Serialize};

/// Up to this many tests the order is the best there is; above it is a good one, with the distance to a bound.
pub const MAX_EXACT: usize = 16;
/// More tests are no examination that a patient bears.
pub const MAX_PLANNED: usize = 40;
/// Costs closer than this are equal.
const SAME: f64 = 1e-9;
/// Beginnings of an order that are followed at once where there are too many for all of them.
const BEAM: usize = 400;

/// What decides a test's place.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct PlannedTest {
    /// The patient's position; equal numbers are equal positions.
    pub position: u32,
    /// Only the first attempt counts, so that what irritates must not come before it.
    pub one_attempt: bool,
    /// How irritating it is; 0 for not at all.
    pub irritation: f64,
    /// What it tells, in bits (see [`crate::combine::expected_information`]).
    pub bits: f64,
    /// It comes after every test that is not kept for last.
    pub keep_last: bool,
    /// It is of the regional frame: of the basic examination, which comes before every special test as far as the wishes for what comes before what let it.
    pub frame: bool,
}

/// How much each wish counts.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct OrderWeights {
    /// Less turning over: each change of position.
    pub turning: f64,
    /// Nothing irritating before a test with one valid attempt: each point of irritation before it.
    pub one_attempt: f64,
    /// Irritating tests late: each point of irritation, for each test that comes after it.
    pub irritating_late: f64,
    /// The better test first: each bit, for each test that comes after it.
    pub informative_early: f64,
}

impl Default for OrderWeights {
    fn default() -> Self {
        Self { turning: 1.0, one_attempt: 1.0, irritating_late: 0.5, informative_early: 1.0 }
    }
}

/// What an order costs, by wish.
#[derive(Debug, Clone, Copy, Default, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct OrderCost {
    /// Sum of the others.
    pub total: f64,
    /// For turning over.
    pub turning: f64,
    /// For irritation before tests with one valid attempt.
    pub one_attempt: f64,
    /// For irritation before other tests.
    pub irritating_late: f64,
    /// At most 0: what informative tests early are worth.
    pub informative_early: f64,
    /// How often the patient turns over.
    pub changes: usize,
}

/// Why a test stands where it stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(tag = "code", rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum PlaceReason {
    /// The patient lies or sits as for the test before.
    SamePosition,
    /// It allows one valid attempt, and irritating tests follow.
    OneAttempt,
    /// No other test is as irritating, and others come before it.
    Irritating,
    /// It tells the most of those that are left.
    MostInformative,
    /// It is asked to come before this test.
    Before {
        /// Which.
        test: usize,
    },
    /// It is asked to come after this test.
    After {
        /// Which.
        test: usize,
    },
    /// It is kept for last.
    KeptLast,
    /// It is of the regional frame, and special tests follow.
    Frame,
}

/// An order with its reasons.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct BestOrder {
    /// Tests, by their number, in the order in which they are done.
    pub order: Vec<usize>,
    /// What it costs.
    pub cost: OrderCost,
    /// For each place, why.
    pub reasons: Vec<Vec<PlaceReason>>,
    /// No order costs less than this. It is the cost itself where the order is the best one there is.
    pub bound: f64,
    /// No order is better.
    pub exact: bool,
}

/// An order of one's own, read as the best one is.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct OwnOrder {
    /// What it costs.
    pub cost: OrderCost,
    /// For each place, why the test stands well there.
    pub reasons: Vec<Vec<PlaceReason>>,
    /// Wishes that it does not keep: pairs of a test, by its number, and one that should come after it and does not.
    pub broken: Vec<[usize; 2]>,
}

/// Why no order can be given.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum OrderError {
    /// No test, or too many.
    #[error("{0} tests are given; between 1 and {max} can be put in order", max = MAX_PLANNED)]
    Tests(usize),
    /// A number that cannot be.
    #[error("{value} is given as {what} of test {test}; it must be a number from 0 on")]
    Number {
        /// Which test, the first is 0.
        test: usize,
        /// Which of its numbers.
        what: &'static str,
        /// What was given.
        value: f64,
    },
    /// A weight that cannot be.
    #[error("{value} is given as the weight of {what}; it must be a number from 0 on")]
    Weight {
        /// Which.
        what: &'static str,
        /// What was given.
        value: f64,
    },
    /// A wish for a test that is not there.
    #[error("a test {0} is to come before or after another; there is no such test")]
    Unknown(usize),
    /// Wishes that contradict each other: each of these tests would have to come before another one of them.
    #[error("the wishes for what comes before what contradict each other; {} tests are in the circle", .0.len())]
    Contradiction(Vec<usize>),
    /// An order that does not name each test once.
    #[error("the order names {0} places; it must name each of the {1} tests once")]
    NoOrder(usize, usize),
}

/// The cost of an order: for each test, `turning` if its position is not that of the test just before it; `one_attempt` times the irritation of all
/// tests before it, if it allows one attempt only; `irritating_late` times its irritation times the number of tests after it; less
/// `informative_early` times its bits times that number.
///
/// # Errors
/// [`OrderError`] for numbers that cannot be and for an order that does not name each test once.
pub fn order_cost(tests: &[PlannedTest], weights: &OrderWeights, order: &[usize]) -> Result<OrderCost, OrderError> {
    check(tests, weights)?;
    let mut named = vec![false; tests.len()];
    for place in order {
        match named.get_mut(*place) {
            Some(named) if !*named => *named = true,
            _ => return Err(OrderError::NoOrder(order.len(), tests.len())),
        }
    }
    if order.len() != tests.len() {
        return Err(OrderError::NoOrder(order.len(), tests.len()));
    }
    Ok(cost(tests, weights, order))
}

/// What an order of one's own costs ([`order_cost`]), what speaks for its places, and which wishes it does not keep.
///
/// # Errors
/// As [`order_cost`], and [`OrderError::Unknown`].
pub fn own_order(
    tests: &[PlannedTest],
    weights: &OrderWeights,
    before: &[(usize, usize)],
    order: &[usize],
) -> Result<OwnOrder, OrderError> {
    let cost = order_cost(tests, weights, order)?;
    if let Some(unknown) = before.iter().flat_map(|(one, other)| [*one, *other]).find(|it| *it >= tests.len()) {
        return Err(OrderError::Unknown(unknown));
    }
    let place = |test: usize| order.iter().position(|it| *it == test).unwrap_or_default();
    let late = before.iter().filter(|(first, second)| place(*first) >= place(*second)).map(|(a, b)| [*a, *b]);
    let mut broken: Vec<[usize; 2]> = late.collect();
    // What is kept for last and is followed by what is not: by the next of these, so that it is said once.
    for (at, last) in order.iter().enumerate().filter(|(_, test)| tests[**test].keep_last) {
        broken.extend(order[at + 1..].iter().find(|test| !tests[**test].keep_last).map(|next| [*next, *last]));
    }
    // Of the regional frame, by the first special test before it.
    let frame = frame_first(tests, before);
    for (at, test) in order.iter().enumerate().filter(|(_, test)| tests[**test].frame) {
        broken.extend(order[..at].iter().find(|it| frame.contains(&(*test, **it))).map(|it| [*test, *it]));
    }
    let reasons = (0..order.len()).map(|place| reasons(tests, before, order, place)).collect();
    Ok(OwnOrder { cost, reasons, broken })
}

fn cost(tests: &[PlannedTest], weights: &OrderWeights, order: &[usize]) -> OrderCost {
    let mut cost = OrderCost::default();
    let (mut irritation, mut previous) = (0.0, None);
    for (place, index) in order.iter().enumerate() {
        let test = tests[*index];
        let after = (order.len() - place - 1) as f64;
        if previous.is_some_and(|position| position != test.position) {
            cost.changes += 1;
        }
        if test.one_attempt {
            cost.one_attempt += weights.one_attempt * irritation;
        }
        cost.irritating_late += weights.irritating_late * test.irritation * after;
        cost.informative_early -= weights.informative_early * test.bits * after;
        irritation += test.irritation;
        previous = Some(test.position);
    }
    cost.turning = weights.turning * cost.changes as f64;
    cost.total = cost.turning + cost.one_attempt + cost.irritating_late + cost.informative_early;
    cost
}

/// The order that costs least ([`order_cost`]) of those that keep to `before` (pairs of a test and one that comes after it) and put what is kept for
/// last there; of equally good ones the one that is first by the tests' numbers.
///
/// Up to [`MAX_EXACT`] tests by dynamic programming over what is done already and the position in which it ended (Held and Karp 1962): exact. Above, the
/// best beginnings of each length are followed and single tests moved until nothing improves; the bound takes for each pair of tests the cheaper of
/// their two orders, and the fewest changes of position there can be.
///
/// # Errors
/// [`OrderError`].
pub fn best_order(
    tests: &[PlannedTest],
    weights: &OrderWeights,
    before: &[(usize, usize)],
) -> Result<BestOrder, OrderError> {
    check(tests, weights)?;
    let problem = Problem::new(tests, weights, before)?;
    let exact = tests.len() <= MAX_EXACT;
    let order = if exact { problem.exactly() } else { problem.improved(problem.by_beam()) };
    let cost = cost(tests, weights, &order);
    let bound = if exact { cost.total } else { problem.bound().min(cost.total) };
    let reasons = (0..order.len()).map(|place| reasons(tests, before, &order, place)).collect();
    Ok(BestOrder { order, cost, reasons, bound, exact: exact || cost.total - bound <= SAME })
}

fn check(tests: &[PlannedTest], weights: &OrderWeights) -> Result<(), OrderError> {
    if !(1..=MAX_PLANNED).contains(&tests.len()) {
        return Err(OrderError::Tests(tests.len()));
    }
    for (test, it) in tests.iter().enumerate() {
        for (what, value) in [("irritation", it.irritation), ("information", it.bits)] {
            if !sound(value) {
                return Err(OrderError::Number { test, what, value });
            }
        }
    }
    check_weights(weights)
}

fn sound(value: f64) -> bool {
    value.is_finite() && value >= 0.0
}

/// Whether each weight is a number from 0 on.
pub(super) fn check_weights(weights: &OrderWeights) -> Result<(), OrderError> {
    let of = [
        ("turning over", weights.turning),
        ("one attempt", weights.one_attempt),
        ("irritating tests late", weights.irritating_late),
        ("informative tests early", weights.informative_early),
    ];
    let wrong = of.into_iter().find(|(_, value)| !sound(*value));
    wrong.map_or(Ok(()), |(what, value)| Err(OrderError::Weight { what, value }))
}

/// For each test, as sets of bits, those that must come before it: pairs of a test and one that comes after it, and what is kept for last. At most
/// [`MAX_PLANNED`] tests.
///
/// # Errors
/// [`OrderError::Unknown`], and [`OrderError::Contradiction`] with the tests for which there is no place.
pub(super) fn precedence(keep_last: &[bool], before: &[(usize, usize)]) -> Result<Vec<u64>, OrderError> {
    let n = keep_last.len();
    let mut needs = vec![0_u64; n];
    for (earlier, later) in before {
        if let Some(unknown) = [*earlier, *later].into_iter().find(|it| *it >= n) {
            return Err(OrderError::Unknown(unknown));
        }
        needs[*later] |= 1 << earlier;
    }
    let not_last = (0..n).filter(|index| !keep_last[*index]).fold(0, |set, index| set | 1 << index);
    for (needs, last) in needs.iter_mut().zip(keep_last) {
        if *last {
            *needs |= not_last;
        }
    }
    let mut done = 0_u64;
    while let Some(next) = (0..n).find(|index| done >> index & 1 == 0 && needs[*index] & !done == 0) {
        done |= 1 << next;
    }
    if done.count_ones() as usize == n {
        Ok(needs)
    } else {
        Err(OrderError::Contradiction((0..n).filter(|index| done >> index & 1 == 0).collect()))
    }
}

/// Tests as sets of bits.
struct Problem<'a> {
    tests: &'a [PlannedTest],
    weights: &'a OrderWeights,
    /// For each test, those that must come before it.
    needs: Vec<u64>,
    /// For each test, which of the positions it is in.
    position: Vec<usize>,
    positions: usize,
}

impl<'a> Problem<'a> {
    fn new(tests: &'a [PlannedTest], weights: &'a OrderWeights, before: &[(usize, usize)]) -> Result<Self, OrderError> {
        let keep_last: Vec<bool> = tests.iter().map(|test| test.keep_last).collect();
        precedence(&keep_last, before)?;
        let before: Vec<(usize, usize)> = before.iter().copied().chain(frame_first(tests, before)).collect();
        let needs = precedence(&keep_last, &before)?;
        let mut known: Vec<u32> = Vec::new();
        let position = tests.iter().map(|test| {
            known.iter().position(|it| *it == test.position).unwrap_or_else(|| {
                known.push(test.position);
                known.len() - 1
            })
        });
        let position = position.collect();
        Ok(Self { tests, weights, needs, position, positions: known.len() })
    }

    fn all(&self) -> u64 {
        (1 << self.tests.len()) - 1
    }

    fn allowed(&self, done: u64) -> impl Iterator<Item = usize> {
        (0..self.tests.len()).filter(move |index| done >> index & 1 == 0 && self.needs[*index] & !done == 0)
    }

    /// What it costs to do a test when these are done, without turning over.
    fn step(&self, done: u64, index: usize) -> f64 {
        let test = self.tests[index];
        let after = (self.tests.len() - done.count_ones() as usize - 1) as f64;
        let irritation = || (0..self.tests.len()).filter(|it| done >> it & 1 == 1).map(|it| self.tests[it].irritation);
        let attempt = if test.one_attempt { self.weights.one_attempt * irritation().sum::<f64>() } else { 0.0 };
        let worth = self.weights.irritating_late * test.irritation - self.weights.informative_early * test.bits;
        attempt + worth * after
    }

    fn turn(&self, from: Option<usize>, to: usize) -> f64 {
        if from.is_some_and(|from| from != to) { self.weights.turning } else { 0.0 }
    }

    fn exactly(&self) -> Vec<usize> {
        let (all, positions) = (self.all(), self.positions);
        // What the rest costs, by what is done and in which position it ended.
        let mut rest = vec![f64::INFINITY; (all as usize + 1) * positions];
        rest[all as usize * positions..].fill(0.0);
        let mut least = vec![f64::INFINITY; positions];
        for done in (0..all).rev() {
            least.fill(f64::INFINITY);
            for index in self.allowed(done) {
                let position = self.position[index];
                let cost = self.step(done, index) + rest[(done | 1 << index) as usize * positions + position];
                least[position] = least[position].min(cost);
            }
            let anywhere = least.iter().copied().fold(f64::INFINITY, f64::min) + self.weights.turning;
            for (position, least) in least.iter().enumerate() {
                rest[done as usize * positions + position] = least.min(anywhere);
            }
        }
        let (mut order, mut done, mut position) = (Vec::with_capacity(self.tests.len()), 0_u64, None);
        while done != all {
            let costs: Vec<(usize, f64)> = self
                .allowed(done)
                .map(|index| {
                    let to = self.position[index];
                    let cost = self.step(done, index) + self.turn(position, to);
                    (index, cost + rest[(done | 1 << index) as usize * positions + to])
                })
                .collect();
            let best = costs.iter().map(|(_, cost)| *cost).fold(f64::INFINITY, f64::min);
            let Some((next, _)) = costs.into_iter().find(|(_, cost)| *cost <= best + SAME) else { break };
            order.push(next);
            done |= 1 << next;
            position = Some(self.position[next]);
        }
        order
    }

    /// Follows the best beginnings of each length; two that did the same tests and ended in the same position are one.
    fn by_beam(&self) -> Vec<usize> {
        let mut beginnings: Vec<(f64, u64, Option<usize>, Vec<usize>)> = vec![(0.0, 0, None, Vec::new())];
        for _ in 0..self.tests.len() {
            let mut longer: HashMap<(u64, usize), (f64, Vec<usize>)> = HashMap::new();
            for (cost, done, position, order) in &beginnings {
                for index in self.allowed(*done) {
                    let to = self.position[index];
                    let cost = cost + self.step(*done, index) + self.turn(*position, to);
                    let known = longer.get(&(done | 1 << index, to)).map_or(f64::INFINITY, |(cost, _)| *cost);
                    if cost < known {
                        longer.insert((done | 1 << index, to), (cost, [&order[..], &[index]].concat()));
                    }
                }
            }
            beginnings = longer.into_iter().map(|((done, to), (cost, order))| (cost, done, Some(to), order)).collect();
            beginnings.sort_by(|one, other| one.0.total_cmp(&other.0).then_with(|| one.3.cmp(&other.3)));
            beginnings.truncate(BEAM);
        }
        beginnings.swap_remove(0).3
    }

    /// Moves single tests as long as that costs less.
    fn improved(&self, mut order: Vec<usize>) -> Vec<usize> {
        let total = |order: &[usize]| cost(self.tests, self.weights, order).total;
        let keeps = |order: &[usize]| {
            let mut done = 0_u64;
            order.iter().all(|index| {
                let allowed = self.needs[*index] & !done == 0;
                done |= 1 << index;
                allowed
            })
        };
        let mut best = total(&order);
        loop {
            let mut better = None;
            for from in 0..order.len() {
                for to in (0..order.len()).filter(|to| *to != from) {
                    let mut moved = order.clone();
                    let test = moved.remove(from);
                    moved.insert(to, test);
                    if keeps(&moved) && total(&moved) < best - SAME {
                        best = total(&moved);
                        better = Some(moved);
                    }
                }
            }
            match better {
                Some(moved) => order = moved,
                None => return order,
            }
        }
    }

    fn bound(&self) -> f64 {
        // One before the other: what the pair costs.
        let pair = |first: usize, second: usize| {
            let (first, second) = (self.tests[first], self.tests[second]);
            let attempt = if second.one_attempt { self.weights.one_attempt * first.irritation } else { 0.0 };
            attempt + self.weights.irritating_late * first.irritation - self.weights.informative_early * first.bits
        };
        let needs = |first: usize, second: usize| self.needs[second] >> first & 1 == 1;
        let mut sum = self.weights.turning * (self.positions - 1) as f64;
        for second in 0..self.tests.len() {
            for first in 0..second {
                sum += match (needs(first, second), needs(second, first)) {
                    (true, _) => pair(first, second),
                    (_, true) => pair(second, first),
                    _ => pair(first, second).min(pair(second, first)),
                };
            }
        }
        sum
    }
}

/// A test of the regional frame before each special test, as far as no wish for what comes before what contradicts it; of pairs that contradict each other the
/// first by the tests' own order.
fn frame_first(tests: &[PlannedTest], before: &[(usize, usize)]) -> Vec<(usize, usize)> {
    let n = tests.len();
    // Which tests come after each one, however many others lie between.
    let mut after = vec![0_u64; n];
    let add = |after: &mut Vec<u64>, first: usize, second: usize| {
        let gained = after[second] | 1 << second;
        for (at, reached) in after.iter_mut().enumerate() {
            if at == first || *reached >> first & 1 == 1 {
                *reached |= gained;
            }
        }
    };
    for (first, second) in before.iter().filter(|(first, second)| *first < n && *second < n) {
        add(&mut after, *first, *second);
    }
    let last = |kept: bool| (0..n).filter(move |test| tests[*test].keep_last == kept);
    for second in last(true) {
        last(false).for_each(|first| add(&mut after, first, second));
    }
    let mut pairs = Vec::new();
    for first in (0..n).filter(|test| tests[*test].frame) {
        for second in (0..n).filter(|test| !tests[*test].frame) {
            if after[second] >> first & 1 == 0 {
                pairs.push((first, second));
                add(&mut after, first, second);
            }
        }
    }
    pairs
}

fn reasons(tests: &[PlannedTest], before: &[(usize, usize)], order: &[usize], place: usize) -> Vec<PlaceReason> {
    let (index, test) = (order[place], tests[order[place]]);
    let (earlier, later) = (&order[..place], &order[place + 1..]);
    let mut found = Vec::new();
    for (first, second) in before {
        if *first == index {
            found.push(PlaceReason::Before { test: *second });
        } else if *second == index {
            found.push(PlaceReason::After { test: *first });
        }
    }
    if test.frame && later.iter().any(|it| !tests[*it].frame) {
        found.push(PlaceReason::Frame);
    }
    if test.keep_last {
        found.push(PlaceReason::KeptLast);
    }
    if test.one_attempt && later.iter().any(|it| tests[*it].irritation > 0.0) {
        found.push(PlaceReason::OneAttempt);
    }
    if earlier.last().is_some_and(|it| tests[*it].position == test.position) {
        found.push(PlaceReason::SamePosition);
    }
    if test.bits > 0.0 && !later.is_empty() && later.iter().all(|it| tests[*it].bits < test.bits) {
        found.push(PlaceReason::MostInformative);
    }
    let milder = |others: &[usize]| others.iter().all(|it| tests[*it].irritation < test.irritation);
    if test.irritation > 0.0 && !earlier.is_empty() && milder(earlier) && milder(later) {
        found.push(PlaceReason::Irritating);
    }
    found
}
