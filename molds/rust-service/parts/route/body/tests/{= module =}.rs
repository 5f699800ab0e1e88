//! The route `/{= route =}`, asked over HTTP.

mod common;
use common::{ask, started};

#[test]
fn it_answers() {
    let service = started();
    let path = "/{= route =}";
    assert_eq!(ask(&service, "GET", path, ""), (200, "[]".into()));
    assert_eq!(ask(&service, "DELETE", path, "").0, 405);
    service.stop().expect("it stops");
}
