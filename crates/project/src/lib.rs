//! Projects from molds, without a terminal: answers, plan, verification, writing, record, finishing
//! steps and parts. It takes a loaded mold; the mold's origin does not matter here.
//!
//! The modules, in the order in which data flows through a cast:
//!
//! ```no_run
//! use tinmold_mold::{Mold, built_in};
//! use tinmold_project::{answers::{BuiltIns, Offers, Session}, plan::{Limits, Plan}, write};
//! # fn main() -> Result<(), Box<dyn std::error::Error>> {
//! let mold = Mold::load(built_in("python-service")?)?;
//! let session = Session::new(&mold, vec![None; mold.questions.len()], Offers::default(), BuiltIns::of_system(None))
//!     .map_err(|finding| finding.message)?;
//! let answers = session.finish().map_err(|problems| problems[0].refusal.to_string())?;
//! let plan = Plan::new(&mold, &answers, &Limits::default())?.verify()?;
//! let inspection = write::inspect(&plan, "harbor-times".as_ref())?;
//! plan.write(&inspection, &[], &write::Journals::default(), &())?;
//! # Ok(()) }
//! ```

pub mod answers;
pub mod fit;
pub mod merge;
pub mod outcome;
pub mod plan;
pub mod preflight;
pub mod recast;
pub mod record;
pub mod review;
pub mod setup;
pub mod steps;
pub mod verify;
pub mod write;
