//! The whole service, asked over HTTP on a free port of this machine.

mod client;
mod notes;
mod requests;
// joint: modules (tinmold)
