//! Texts for people and programs: styles, findings, trees, differences, reviews. Nothing here asks.

pub mod checked_mold;
pub mod conditions;
pub mod diff;
pub mod findings;
pub mod fit_report;
pub mod junit;
pub mod needs;
pub mod program;
pub mod proofs;
mod recast_json;
pub mod recast_report;
pub mod recast_words;
pub mod review;
pub mod sarif;
pub mod steps;
pub mod style;
pub mod tree;
pub mod width;
