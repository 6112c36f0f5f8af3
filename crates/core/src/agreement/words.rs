//! Words for the size of a coefficient, after published schemes. The number always stands beside the word.

use serde::Serialize;

use super::ReportedKind;

/// Who proposed the words.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum WordScheme {
    /// Landis and Koch, Biometrics 1977;33:159-174, for kappa.
    LandisKoch1977,
    /// Koo and Li, J Chiropr Med 2016;15:155-163, for intraclass correlations. They judge the interval; the word here is the point's.
    KooLi2016,
}

/// A word for the size of a coefficient.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum SizeWord {
    /// Kappa below 0; intraclass correlation below 0.5.
    Poor,
    /// Kappa from 0 to 0.20.
    Slight,
    /// Kappa above 0.20, to 0.40.
    Fair,
    /// Kappa above 0.40, to 0.60; intraclass correlation from 0.5 to 0.75.
    Moderate,
    /// Kappa above 0.60, to 0.80.
    Substantial,
    /// Kappa above 0.80.
    AlmostPerfect,
    /// Intraclass correlation above 0.75, to 0.9.
    Good,
    /// Intraclass correlation above 0.9.
    Excellent,
}

/// A word and where it comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct NamedSize {
    /// The word.
    pub word: SizeWord,
    /// Whose word it is.
    pub scheme: WordScheme,
}

/// The word for a coefficient of this size.
#[must_use]
pub fn size_word(kind: ReportedKind, value: f64) -> NamedSize {
    match kind {
        ReportedKind::Kappa => {
            let word = match value {
                v if v < 0.0 => SizeWord::Poor,
                v if v <= 0.2 => SizeWord::Slight,
                v if v <= 0.4 => SizeWord::Fair,
                v if v <= 0.6 => SizeWord::Moderate,
                v if v <= 0.8 => SizeWord::Substantial,
                _ => SizeWord::AlmostPerfect,
            };
            NamedSize { word, scheme: WordScheme::LandisKoch1977 }
        }
        ReportedKind::Icc => {
            let word = match value {
                v if v < 0.5 => SizeWord::Poor,
                v if v <= 0.75 => SizeWord::Moderate,
                v if v <= 0.9 => SizeWord::Good,
                _ => SizeWord::Excellent,
            };
            NamedSize { word, scheme: WordScheme::KooLi2016 }
        }
    }
}
