//! The job of Tin Mold, without a terminal: molds, answers, plans, writing.
//!
//! The rooms stand in the order in which data flows through a cast, and each step takes the last one's result:
//!
//! ```no_run
//! use tinmold_core::{answers::{BuiltIns, Offers, Session}, mold::Mold, plan::{Limits, Plan}, shelf};
//! # fn main() -> Result<(), Box<dyn std::error::Error>> {
//! let package = shelf::built_in("python-service")?;                                   // shelf
//! let mold = Mold::load(package)?;                                                    // mold
//! let session = Session::new(&mold, vec![None; mold.questions.len()], Offers::default(), BuiltIns::of_system(None))
//!     .map_err(|finding| finding.message)?;
//! let answers = session.finish().map_err(|problems| problems[0].refusal.to_string())?; // answers
//! let plan = Plan::new(&mold, &answers, &Limits::default())?;                         // plan
//! let plan = plan.verify()?;                                                          // verify
//! plan.write("harbor-times".as_ref(), &(), &mut ())?;                                 // write
//! # Ok(()) }
//! ```

pub mod answers;
pub mod author;
pub mod codes;
mod digest;
pub mod finish;
pub mod fit;
pub mod formats;
mod listing;
pub mod mold;
mod near;
mod parallel;
pub mod plan;
pub mod record;
pub mod shelf;
mod tarball;
pub mod verify;
pub mod write;
