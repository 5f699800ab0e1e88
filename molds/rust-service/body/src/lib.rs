#![doc = {= summary.rust =}]

// {= if stored =}
mod database;
// {= end =}
// {= if axum =}
mod extract;
// {= end =}
mod health;
mod notes;
mod problem;
mod requests;
mod service;
mod settings;
// joint: modules (tinmold)

pub use service::Service;
pub use settings::{Format, Settings};
