//! From a package to a mold: names, types and order, with every mistake of the manifest.
//!
//! `context` collects findings, `question`, `derived`, `body`, `steps`, `presets` and `texts` read one table each, `earlier` what
//! was called otherwise; `layers` takes layers in; `mold` and `part` put them together.

mod body;
mod context;
mod derived;
mod earlier;
mod layers;
mod mold;
mod part;
mod presets;
mod question;
mod steps;
mod texts;
