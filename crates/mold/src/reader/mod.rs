//! From a package to a mold: names, types and order, with every mistake of the manifest.
//!
//! `context` collects findings, `question`, `derived`, `body`, `steps` and `texts` read one table each,
//! `mold` and `part` put them together.

mod body;
mod context;
mod derived;
mod layers;
mod mold;
mod part;
mod question;
mod steps;
mod texts;
