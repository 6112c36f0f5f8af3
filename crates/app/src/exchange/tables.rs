//! Tables out of the catalogue.

use pruvex_core::catalogue::Region;
use pruvex_core::{Estimate, Ratio};
use pruvex_formats::{write_csv, write_results_csv, write_results_xlsx};
use pruvex_store::exchange::export;

use crate::blocking::blocking;
use crate::catalogue::{ListFilter, rows_of};
use crate::people::{DraftReader, Reader};
use crate::{App, AppError, FileContent, media};

/// What a table is written as.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum TableFormat {
    /// Text with a header row.
    Csv,
    /// An Office Open XML workbook.
    Xlsx,
}

impl TableFormat {
    /// Both.
    pub const ALL: [Self; 2] = [Self::Csv, Self::Xlsx];

    /// The end of a file's name.
    #[must_use]
    pub fn ending(self) -> &'static str {
        match self {
            Self::Csv => "csv",
            Self::Xlsx => "xlsx",
        }
    }

    /// The one with this ending.
    #[must_use]
    pub fn from_ending(ending: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|it| it.ending() == ending)
    }
}

/// A region's studies and results as a table, one row a result, or all.
///
/// # Errors
/// Database errors.
pub async fn export_results(
    app: &App,
    _by: &DraftReader,
    format: TableFormat,
    region: Option<Region>,
) -> Result<FileContent, AppError> {
    let name = format!("pruvex-results-{}.{}", region.map_or("all", Region::code), format.ending());
    let bundle = export(&app.db, region, &name).await?;
    match format {
        TableFormat::Csv => {
            let text = blocking(move || write_results_csv(&bundle)).await?.map_err(AppError::internal)?;
            Ok(FileContent::new(text, name, media::CSV))
        }
        TableFormat::Xlsx => {
            let bytes = blocking(move || write_results_xlsx(&bundle)).await?.map_err(AppError::internal)?;
            Ok(FileContent::new(bytes, name, media::XLSX))
        }
    }
}

/// The catalogue's list as a table, with the same parameters.
///
/// # Errors
/// A text that is too long.
pub async fn export_list(app: &App, by: &Reader, filter: &ListFilter) -> Result<FileContent, AppError> {
    let catalogue = app.catalogue().await?;
    let header = [
        "name",
        "aliases",
        "region",
        "purpose",
        "condition",
        "positive_finding",
        "studies",
        "patients",
        "lr_positive",
        "lr_positive_lower",
        "lr_positive_upper",
        "lr_negative",
        "lr_negative_lower",
        "lr_negative_upper",
        "next_lr_positive_lower",
        "next_lr_positive_upper",
        "next_lr_negative_lower",
        "next_lr_negative_upper",
        "status",
        "sample_data",
    ];
    let mut table = vec![header.map(str::to_owned).to_vec()];
    for row in rows_of(app, &catalogue, by.role(), filter).await? {
        let ratio = |lr: Option<Estimate<Ratio>>| {
            lr.map_or_else(Default::default, |lr| [lr.estimate, lr.lower, lr.upper].map(|it| it.get().to_string()))
        };
        let mut line = vec![
            row.name.clone(),
            row.aliases.join("; "),
            row.region.code().to_owned(),
            row.purpose.code().to_owned(),
            row.condition.clone(),
            row.positive_finding.clone(),
            row.studies.to_string(),
            row.patients.to_string(),
        ];
        line.extend::<[String; 3]>(ratio(row.summary.and_then(|summary| summary.lr_positive)));
        line.extend::<[String; 3]>(ratio(row.summary.and_then(|summary| summary.lr_negative)));
        for ahead in [row.ahead_positive, row.ahead_negative] {
            let [_, lower, upper] = ratio(ahead);
            line.extend([lower, upper]);
        }
        line.extend([row.status.code().to_owned(), row.sample.to_string()]);
        table.push(line);
    }
    let text = write_csv(&table).map_err(AppError::internal)?;
    Ok(FileContent::new(text, "pruvex-list.csv", media::CSV))
}
