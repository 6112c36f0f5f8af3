//! The computation and the rules, compared with reference values and held to laws. One program for all of it: it is linked once, and its tests run side by side.
#![allow(clippy::unwrap_used, clippy::expect_used, reason = "a failed step is a failed test")]

mod accuracy;
mod accuracy_laws;
mod accuracy_results;
mod agreement;
mod agreement_results;
mod any_input;
mod appraisal;
mod audit;
mod battery;
mod bias;
mod catalogue;
mod combine;
mod common;
mod comparison;
mod decisions;
mod evidence;
mod examination;
mod extraction;
mod interpretation;
mod levels;
mod likelihood;
mod people;
mod plan;
mod pooling;
mod posterior;
mod prevalence;
mod quantity;
mod rebuild;
mod roc_space;
mod selection;
mod sheet_parts;
mod simulation;
mod snapshot;
mod study_setup;
mod univariate;
