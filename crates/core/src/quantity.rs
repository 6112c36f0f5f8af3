//! Quantities that cannot hold nonsense. Each is built by a checked constructor, also when deserialised,
//! so that a NaN or a probability of 1.2 cannot travel from a request into a figure.

use serde::{Deserialize, Deserializer, Serialize, Serializer};
use statrs::distribution::{ContinuousCDF, Normal};

/// Why a number was refused.
#[derive(Debug, Clone, Copy, PartialEq, thiserror::Error)]
pub enum QuantityError {
    /// Not within 0 and 1.
    #[error("{0} is not a probability: it must lie between 0 and 1")]
    NotAProbability(f64),
    /// Negative or not a number.
    #[error("{0} is not a ratio: it must be 0 or more")]
    NotARatio(f64),
    /// Not within (0, 1).
    #[error("{0} is not a confidence level: it must lie above 0 and below 1, such as 0.95")]
    NotALevel(f64),
    /// A point outside of its interval, or bounds in the wrong order.
    #[error(
        "{estimate} does not lie within its interval, {lower} to {upper}: the order must be lower, estimate, upper"
    )]
    NotAnInterval {
        /// The point.
        estimate: f64,
        /// Lower bound.
        lower: f64,
        /// Upper bound.
        upper: f64,
    },
    /// Negative, fractional or beyond [`Count::MAX`].
    #[error("{0} is not a count: it must be a whole number from 0 to {max}", max = Count::MAX)]
    NotACount(f64),
}

/// A probability or proportion within `[0, 1]`; never NaN.
#[derive(Debug, Clone, Copy, PartialEq, PartialOrd, Serialize, Deserialize)]
#[serde(try_from = "f64", into = "f64")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "openapi", schema(value_type = f64, minimum = 0, maximum = 1))]
pub struct Probability(f64);

impl Probability {
    /// Checked constructor.
    ///
    /// # Errors
    /// [`QuantityError::NotAProbability`] outside `[0, 1]` and for NaN.
    pub fn new(value: f64) -> Result<Self, QuantityError> {
        if (0.0..=1.0).contains(&value) { Ok(Self(value)) } else { Err(QuantityError::NotAProbability(value)) }
    }

    /// Impossible.
    pub const ZERO: Self = Self(0.0);
    /// Certain.
    pub const ONE: Self = Self(1.0);

    /// For sums and products of probabilities, and quotients of counts: they leave `[0, 1]` by rounding only and are never NaN. A NaN
    /// would be a fault of this program; it stops here and does not travel on as a number.
    pub(crate) fn rounded(value: f64) -> Self {
        assert!(!value.is_nan(), "a probability was computed as NaN");
        Self(value.clamp(0.0, 1.0))
    }

    /// The inverse logit `1 / (1 + e^-x)`, monotone and within `[0, 1]` for every `x`, infinite ones included; `None` for NaN.
    #[must_use]
    pub fn from_logit(x: f64) -> Option<Self> {
        (!x.is_nan()).then(|| Self::rounded(expit(x)))
    }

    /// `num / den` of counts with `den > 0`.
    pub(crate) fn of(num: u64, den: u64) -> Self {
        Self::rounded(num as f64 / den as f64)
    }

    /// The number itself.
    #[must_use]
    pub fn get(self) -> f64 {
        self.0
    }

    /// `1 - p`.
    #[must_use]
    pub fn complement(self) -> Self {
        Self(1.0 - self.0)
    }
}

/// `1 / (1 + e^-x)`.
pub(crate) fn expit(x: f64) -> f64 {
    1.0 / (1.0 + (-x).exp())
}

impl TryFrom<f64> for Probability {
    type Error = QuantityError;
    fn try_from(value: f64) -> Result<Self, Self::Error> {
        Self::new(value)
    }
}

impl From<Probability> for f64 {
    fn from(value: Probability) -> Self {
        value.0
    }
}

/// A likelihood or odds ratio within `[0, +infinity]`; never NaN.
///
/// JSON has no infinity: it travels as the string `"infinity"`, so that "no false positive was seen" is
/// neither lost nor mistaken for "not estimable" (which is `null`).
#[derive(Debug, Clone, Copy, PartialEq, PartialOrd)]
pub struct Ratio(f64);

impl Ratio {
    /// Checked constructor.
    ///
    /// # Errors
    /// [`QuantityError::NotARatio`] for negative numbers and NaN.
    pub fn new(value: f64) -> Result<Self, QuantityError> {
        if value >= 0.0 { Ok(Self(value)) } else { Err(QuantityError::NotARatio(value)) }
    }

    /// For quotients of which numerator and denominator are not both zero; see [`Probability::rounded`].
    pub(crate) fn rounded(value: f64) -> Self {
        assert!(!value.is_nan(), "a ratio was computed as NaN");
        Self(value.max(0.0))
    }

    /// The number itself, possibly infinite.
    #[must_use]
    pub fn get(self) -> f64 {
        self.0
    }
}

impl From<Ratio> for f64 {
    fn from(value: Ratio) -> Self {
        value.0
    }
}

impl Serialize for Ratio {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        if self.0.is_finite() { serializer.serialize_f64(self.0) } else { serializer.serialize_str("infinity") }
    }
}

impl<'de> Deserialize<'de> for Ratio {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        #[derive(Deserialize)]
        #[serde(untagged, expecting = "expected a number, or \"infinity\"")]
        enum Wire {
            Number(f64),
            Word(String),
        }
        match Wire::deserialize(deserializer)? {
            Wire::Number(value) => Self::new(value).map_err(serde::de::Error::custom),
            Wire::Word(word) if word == "infinity" => Ok(Self(f64::INFINITY)),
            Wire::Word(word) => Err(serde::de::Error::custom(format!("{word:?} is neither a number nor \"infinity\""))),
        }
    }
}

#[cfg(feature = "openapi")]
mod openapi {
    use utoipa::openapi::RefOr;
    use utoipa::openapi::schema::{ObjectBuilder, OneOfBuilder, Schema, Type};

    impl utoipa::PartialSchema for super::Ratio {
        fn schema() -> RefOr<Schema> {
            let word = ObjectBuilder::new().schema_type(Type::String).enum_values(Some(["infinity"]));
            let number = ObjectBuilder::new().schema_type(Type::Number).minimum(Some(0.0));
            RefOr::T(Schema::OneOf(OneOfBuilder::new().item(number).item(word).build()))
        }
    }
    impl utoipa::ToSchema for super::Ratio {}
}

/// A point estimate and its confidence interval, `lower <= estimate <= upper`, also when it is read from a request.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(try_from = "WireEstimate<T>", bound(deserialize = "T: Deserialize<'de> + Copy + PartialOrd + Into<f64>"))]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Estimate<T> {
    /// The point.
    pub estimate: T,
    /// Lower bound of the interval.
    pub lower: T,
    /// Upper bound of the interval.
    pub upper: T,
}

#[derive(Deserialize)]
struct WireEstimate<T> {
    estimate: T,
    lower: T,
    upper: T,
}

impl<T: Copy + PartialOrd + Into<f64>> TryFrom<WireEstimate<T>> for Estimate<T> {
    type Error = QuantityError;
    fn try_from(wire: WireEstimate<T>) -> Result<Self, QuantityError> {
        Self::new(wire.estimate, wire.lower, wire.upper)
    }
}

impl<T: Copy + PartialOrd + Into<f64>> Estimate<T> {
    /// Checked constructor.
    ///
    /// # Errors
    /// [`QuantityError::NotAnInterval`] unless `lower <= estimate <= upper`.
    pub fn new(estimate: T, lower: T, upper: T) -> Result<Self, QuantityError> {
        if lower <= estimate && estimate <= upper {
            Ok(Self { estimate, lower, upper })
        } else {
            let [estimate, lower, upper] = [estimate, lower, upper].map(Into::into);
            Err(QuantityError::NotAnInterval { estimate, lower, upper })
        }
    }
}

/// `centre ± half`, on whatever scale they are.
pub(crate) fn centred(centre: f64, half: f64) -> Estimate<f64> {
    Estimate::around(centre, centre - half, centre + half)
}

impl Estimate<f64> {
    /// Back from the logit scale. `None` when a number is NaN: then nothing can be estimated.
    pub(crate) fn expit(self) -> Option<Estimate<Probability>> {
        let at = Probability::from_logit;
        Some(Estimate::around(at(self.estimate)?, at(self.lower)?, at(self.upper)?))
    }

    /// Back from the logarithmic scale, likewise.
    pub(crate) fn exp(self) -> Option<Estimate<Ratio>> {
        let at = |log: f64| Ratio::new(log.exp()).ok();
        Some(Estimate::around(at(self.estimate)?, at(self.lower)?, at(self.upper)?))
    }
}

impl<T: Copy + PartialOrd> Estimate<T> {
    /// Joins a point and its bounds; rounding that puts a bound past the point is mended here, once.
    pub(crate) fn around(estimate: T, lower: T, upper: T) -> Self {
        let lower = if lower > estimate { estimate } else { lower };
        let upper = if upper < estimate { estimate } else { upper };
        Self { estimate, lower, upper }
    }

    /// The same on another scale; `f` must not decrease.
    pub(crate) fn map<U>(self, f: impl Fn(T) -> U) -> Estimate<U> {
        Estimate { estimate: f(self.estimate), lower: f(self.lower), upper: f(self.upper) }
    }
}

/// A two-sided confidence level such as 0.95.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(try_from = "f64", into = "f64")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "openapi", schema(value_type = f64))]
pub struct Level(f64);

impl Level {
    /// Checked constructor.
    ///
    /// # Errors
    /// [`QuantityError::NotALevel`] outside `(0, 1)` and for NaN.
    pub fn new(value: f64) -> Result<Self, QuantityError> {
        if value > 0.0 && value < 1.0 { Ok(Self(value)) } else { Err(QuantityError::NotALevel(value)) }
    }

    /// The number itself.
    #[must_use]
    pub fn get(self) -> f64 {
        self.0
    }

    /// The probability in one tail, `(1 - level) / 2`.
    #[must_use]
    pub fn tail(self) -> f64 {
        (1.0 - self.0) / 2.0
    }

    /// The standard normal deviate `z` with `P(|Z| <= z) = level`; 1.959963984540054 at 0.95.
    #[must_use]
    pub fn z(self) -> f64 {
        -Normal::standard().inverse_cdf(self.tail())
    }
}

impl Default for Level {
    fn default() -> Self {
        Self(0.95)
    }
}

impl TryFrom<f64> for Level {
    type Error = QuantityError;
    fn try_from(value: f64) -> Result<Self, Self::Error> {
        Self::new(value)
    }
}

impl From<Level> for f64 {
    fn from(value: Level) -> Self {
        value.0
    }
}

/// A number of people in one cell of a 2x2 table.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, Hash)]
#[serde(try_from = "f64", into = "u32")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "openapi", schema(value_type = u32))]
pub struct Count(u32);

impl Count {
    /// Far above any study of a bedside test, and low enough that every sum and product of cells is exact.
    pub const MAX: u32 = 10_000_000;

    /// Checked constructor from the number a person or a file wrote.
    ///
    /// # Errors
    /// [`QuantityError::NotACount`] for negative, fractional, infinite or too large numbers.
    pub fn new(value: f64) -> Result<Self, QuantityError> {
        if value >= 0.0 && value <= f64::from(Self::MAX) && value.fract() == 0.0 {
            Ok(Self(value as u32))
        } else {
            Err(QuantityError::NotACount(value))
        }
    }

    /// The number itself.
    #[must_use]
    pub fn get(self) -> u32 {
        self.0
    }
}

impl TryFrom<f64> for Count {
    type Error = QuantityError;
    fn try_from(value: f64) -> Result<Self, Self::Error> {
        Self::new(value)
    }
}

impl From<Count> for u32 {
    fn from(value: Count) -> Self {
        value.0
    }
}
