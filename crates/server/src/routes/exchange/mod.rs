//! Bundles and tables.

pub(crate) mod bundle;
pub(crate) mod table_import;
pub(crate) mod tables;
