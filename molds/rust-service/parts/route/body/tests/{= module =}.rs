//! The route `/{= route =}`, asked over HTTP.

mod common;
use common::{ask, started};

#[test]
fn it_answers() {
    let service = started();
    assert_eq!(ask(&service, "GET", "/{= route =}", ""), (200, "[]".into()));
    assert_eq!(ask(&service, "DELETE", "/{= route =}", "").0, 405);
    service.stop().expect("it stops");
}
