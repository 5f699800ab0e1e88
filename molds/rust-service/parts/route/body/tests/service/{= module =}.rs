//! The route `/{= route =}`, asked over HTTP.

use reqwest::{Method, StatusCode};
use serde_json::json;

use crate::client::Client;

const PATH: &str = "/{= route =}";

#[tokio::test]
async fn it_answers() {
    {= client =}
    assert_eq!(client.get(PATH).await, (StatusCode::OK, json!([{"id": 1}])));
    let (status, _) = client.ask(Method::DELETE, PATH, None).await;
    assert_eq!(status, StatusCode::METHOD_NOT_ALLOWED);
    client.stop().await;
}
