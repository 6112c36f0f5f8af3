//! Numbers as a report prints them.

use serde::Serialize;

/// A number as it was printed: its decimals count.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Rounded {
    mantissa: u64,
    decimals: u32,
    percent: bool,
}

impl Rounded {
    /// Reads `0.78`, or `78` and `77.4` with `percent`. `None` for anything else than digits with one point.
    #[must_use]
    pub fn parse(text: &str, percent: bool) -> Option<Self> {
        let (whole, fraction) = text.trim().split_once('.').unwrap_or((text.trim(), ""));
        let digits = format!("{whole}{fraction}");
        let plain = !whole.is_empty() && digits.len() <= 15 && digits.bytes().all(|b| b.is_ascii_digit());
        let mantissa = digits.parse().ok().filter(|_| plain)?;
        Some(Self { mantissa, decimals: fraction.len() as u32, percent })
    }

    /// The number itself; of one in percent the share.
    #[must_use]
    pub fn value(self) -> f64 {
        self.mantissa as f64 / self.scale() as f64
    }

    /// The factor that turns a value into units of the last printed digit.
    fn scale(self) -> u128 {
        10_u128.pow(self.decimals) * if self.percent { 100 } else { 1 }
    }

    /// Whether `num / den` is printed like this by rounding halves up, and by rounding them to even.
    pub(super) fn matches(self, num: u128, den: u128) -> Rules {
        if den == 0 {
            return Rules::NONE;
        }
        let scaled = num * self.scale();
        let (whole, twice) = (scaled / den, 2 * (scaled % den));
        let up = whole + u128::from(twice >= den);
        let even = whole + u128::from(twice > den || (twice == den && whole % 2 == 1));
        let printed = u128::from(self.mantissa);
        Rules { half_up: up == printed, half_even: even == printed }
    }

    /// Whether this is printed as more than the other.
    pub(super) fn exceeds(self, other: Self) -> bool {
        u128::from(self.mantissa) * other.scale() > u128::from(other.mantissa) * self.scale()
    }

    /// Whether a value computed in floating point is printed like this by rounding halves up.
    pub(super) fn is(self, value: f64) -> bool {
        (value * self.scale() as f64 + 0.5).floor() == self.mantissa as f64
    }

    /// The values printed like this, both ends included: half a unit of the last digit to either side, not cut to 0 and 1.
    #[must_use]
    pub fn window(self) -> [f64; 2] {
        let scale = 2.0 * self.scale() as f64;
        [-1.0, 1.0].map(|half| (2.0 * self.mantissa as f64 + half) / scale)
    }

    /// Bounds of the values printed like this, a little wide.
    pub(super) fn range(self) -> (f64, f64) {
        let (value, scale) = (self.mantissa as f64, self.scale() as f64);
        ((value - 0.500_001) / scale, (value + 0.500_001) / scale)
    }
}

/// Rounding rules under which a figure, or all of them, come out as printed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Rules {
    /// Halves away from zero.
    pub half_up: bool,
    /// Halves to the even digit.
    pub half_even: bool,
}

impl Rules {
    pub(super) const NONE: Self = Self { half_up: false, half_even: false };
    pub(super) const ALL: Self = Self { half_up: true, half_even: true };

    pub(super) fn and(self, other: Self) -> Self {
        Self { half_up: self.half_up && other.half_up, half_even: self.half_even && other.half_even }
    }

    pub(super) fn any(self) -> bool {
        self.half_up || self.half_even
    }
}
