//! Reliability: how far examiners, or occasions, agree.

mod categorical;
mod continuous;
mod ratings;
mod reported;
mod several_raters;
mod words;

pub use categorical::{
    AgreementNote, Coefficient, RatingError, RatingTable, TwoRaterAgreement, Weights, two_rater_agreement,
    weighted_kappa,
};
pub use continuous::{
    BlandAltman, Icc, IccForm, Measurements, Repeatability, bland_altman, intraclass_correlations, repeatability,
};
pub use ratings::{Tabulated, tabulate};
pub use reported::{PooledReliability, Precision, ReportError, Reported, ReportedKind, pool_reported};
pub use several_raters::{RatingCounts, SeveralRaterAgreement, several_rater_agreement};
pub use words::{NamedSize, SizeWord, WordScheme, size_word};
