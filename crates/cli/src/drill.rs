//! `pruvex drill`: questions made of the sheets of a bundle.

use std::sync::Arc;

use clap::ValueEnum;
use pruvex_core::TestId;
use pruvex_core::catalogue::{
    Digest, ExampleValue, Finding, FindingCode, Found, Neighbours, Region, Vocabulary, audit,
};
use pruvex_core::teach::{Drill, DrillOption, DrillQuestion, DrillSheet, Skill, drill};
use pruvex_formats::code_words;

use crate::error::CliError;
use crate::output::{Format, print, read};

#[derive(Debug, clap::Args)]
#[command(after_help = "Example:\n  pruvex drill demo/hand_wrist.json --skill screening --seed 7 --count 3\n\n\
    The same sheets, skill and seed give the same questions. Sheets that contradict themselves or each other are left out.")]
pub struct Arguments {
    /// A bundle, or - for standard input.
    file: String,
    /// What is exercised.
    #[arg(long, value_enum)]
    skill: SkillName,
    /// Of this region only, such as hand_wrist.
    #[arg(long, value_parser = region)]
    region: Option<Region>,
    /// Which questions are drawn.
    #[arg(long, default_value_t = 1)]
    seed: u64,
    /// How many.
    #[arg(long, default_value_t = 1, value_parser = clap::value_parser!(u64).range(1..=1000))]
    count: u64,
    /// How to print the answer.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    format: Format,
}

#[derive(Debug, Clone, Copy, ValueEnum)]
enum SkillName {
    /// What goes wrong, which way that pushes the result, what to do.
    Faults,
    /// Which way to push.
    Direction,
    /// What measurements and phases mean together.
    Interpretation,
    /// Whether a patient who answers so is examined.
    Screening,
    /// The steps of a test.
    Procedure,
}

impl From<SkillName> for Skill {
    fn from(name: SkillName) -> Self {
        match name {
            SkillName::Faults => Self::Faults,
            SkillName::Direction => Self::Direction,
            SkillName::Interpretation => Self::Interpretation,
            SkillName::Screening => Self::Screening,
            SkillName::Procedure => Self::Procedure,
        }
    }
}

fn region(text: &str) -> Result<Region, String> {
    Region::from_code(text).ok_or_else(|| format!("{text:?} is no region"))
}

pub fn run(arguments: &Arguments) -> Result<(), CliError> {
    let bundle = pruvex_formats::read_bundle(&read(&arguments.file)?).map_err(|faults| {
        let faults: Vec<String> = faults.iter().map(|fault| format!("  {fault}")).collect();
        CliError::Refused(format!("{} was not read:\n{}", arguments.file, faults.join("\n")))
    })?;
    let vocabulary = Vocabulary::new(bundle.structures);
    let digests: Vec<_> = bundle.tests.iter().map(|test| Arc::new(Digest::of(&test.sheet))).collect();
    let neighbours = Neighbours::new((0..).zip(digests));
    let findings: Vec<Vec<Finding>> = (0_u128..)
        .zip(&bundle.tests)
        .map(|(place, test)| {
            let mut findings = audit(&test.sheet, &vocabulary);
            findings.extend(neighbours.compare_stored(place));
            findings.retain(|it| it.code != FindingCode::UnknownStructure);
            findings
        })
        .collect();
    let sheets: Vec<DrillSheet<'_>> = bundle
        .tests
        .iter()
        .zip(&findings)
        .filter(|(test, _)| arguments.region.is_none_or(|region| test.sheet.region == region))
        .map(|(test, findings)| DrillSheet { test: TestId::default(), version: 1, sheet: &test.sheet, findings })
        .collect();
    let seeds = arguments.seed..arguments.seed.saturating_add(arguments.count);
    let made: Result<Vec<Drill>, _> = seeds.map(|seed| drill(&sheets, arguments.skill.into(), seed)).collect();
    let made = made.map_err(|none| CliError::Refused(format!("{}: {none}", arguments.file)))?;
    print(arguments.format, &made, || made.iter().map(words).collect::<Vec<_>>().join("\n\n"))
}

fn words(of: &Drill) -> String {
    let question = match &of.question {
        DrillQuestion::WhichMistake { cue } => format!("You see: {cue} Which mistake is it?"),
        DrillQuestion::WhichWay { mistake } => format!("{mistake} Which way does that push the result?"),
        DrillQuestion::WhatToDo { mistake } => format!("{mistake} What do you do?"),
        DrillQuestion::WhichPush { step, effort } => {
            format!("{step} The patient tries: {}. Into which motion do you push?", code_words("motions", *effort))
        }
        DrillQuestion::WhichReading { found } => {
            let value = |it: &ExampleValue| match &it.value {
                Some(Found::Number(number)) => format!("{} {number} {}", it.measure, it.unit).trim_end().to_owned(),
                Some(Found::Choice(word)) => format!("{} {word}", it.measure),
                None => it.measure.clone(),
            };
            format!("{}. What does that mean?", found.iter().map(value).collect::<Vec<_>>().join(", "))
        }
        DrillQuestion::WhetherToExamine { asked, answer } => {
            format!("{asked} The patient says: {}. What now?", code_words("answers", *answer))
        }
        DrillQuestion::WhichOrder => "In which order are these done?".to_owned(),
        DrillQuestion::WhichStep { steps } => {
            let steps = steps.iter().map(|it| if it.is_empty() { "…" } else { it.as_str() });
            format!("Which step is missing? {}", steps.collect::<Vec<_>>().join(" / "))
        }
    };
    let options = ('A'..='Z').zip(&of.options).map(|(letter, option)| format!("  {letter}  {}", option_words(option)));
    let right = of.right.iter().filter_map(|place| ('A'..='Z').nth(*place)).map(String::from);
    let explained = of.explanation.iter().map(|it| format!("  {it}"));
    std::iter::once(format!("{}: {question}", of.name))
        .chain(options)
        .chain([format!("  Right: {}", right.collect::<Vec<_>>().join(", "))])
        .chain(explained)
        .collect::<Vec<_>>()
        .join("\n")
}

fn option_words(option: &DrillOption) -> String {
    match option {
        DrillOption::Text { text } => text.clone(),
        DrillOption::Bias { bias } => code_words("biases", *bias),
        DrillOption::Motion { motion } => code_words("motions", *motion),
        DrillOption::Decision { decision } => code_words("screening_decisions", *decision),
    }
}
