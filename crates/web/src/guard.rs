//! Who may ask: Host and Origin are checked on every request, security headers are set on every
//! answer, each request is logged.

use crate::error::WebError;
use actix_web::body::{BoxBody, EitherBody, MessageBody};
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::http::{Method, StatusCode};
use actix_web::middleware::{DefaultHeaders, Next};
use actix_web::rt::time::timeout;
use actix_web::web::Data;
use actix_web::{Error, HttpRequest, HttpResponse};
use std::future::Future;
use std::time::{Duration, Instant};

/// The port that Host must name.
pub(crate) struct Port(pub u16);

const HEADERS: &[(&str, &str)] = &[
    (
        "content-security-policy",
        "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; connect-src 'self'; \
         form-action 'self'; frame-ancestors 'none'; base-uri 'none'",
    ),
    ("x-content-type-options", "nosniff"),
    ("x-frame-options", "DENY"),
    ("referrer-policy", "same-origin"),
    ("cross-origin-opener-policy", "same-origin"),
    ("cross-origin-resource-policy", "same-origin"),
    ("permissions-policy", "camera=(), microphone=(), geolocation=()"),
];

/// Names by which this machine calls itself.
fn is_here(authority: &str, port: u16) -> bool {
    ["127.0.0.1", "localhost", "[::1]"]
        .iter()
        .any(|name| authority == format!("{name}:{port}") || (port == 80 && authority == *name))
}

fn refusal(request: &ServiceRequest, port: u16) -> Option<&'static str> {
    let header = |name: &str| request.headers().get(name).map(|value| value.to_str().unwrap_or("?"));
    let host = header("host").or_else(|| request.uri().authority().map(actix_web::http::uri::Authority::as_str));
    if !host.is_some_and(|host| is_here(host, port)) {
        return Some("The Host of this request is not this machine.");
    }
    if let Some(origin) = header("origin") {
        let here = origin.strip_prefix("http://").is_some_and(|authority| is_here(authority, port));
        if !here {
            return Some("The Origin of this request is another site.");
        }
    }
    let changes = !matches!(*request.method(), Method::GET | Method::HEAD);
    if changes && header("sec-fetch-site").is_some_and(|site| !matches!(site, "same-origin" | "none")) {
        return Some("This request comes from another site.");
    }
    None
}

/// How long the head of a request may take.
pub(crate) const SLOWEST_HEAD: Duration = Duration::from_secs(10);
/// How long a form may take to come.
const SLOWEST_FORM: Duration = Duration::from_secs(20);
/// How long a file may stand still while it comes.
const SLOWEST_PIECE: Duration = Duration::from_secs(20);
/// Longest address with its query, bytes.
const LONGEST_ADDRESS: usize = 8 * 1024;

/// What comes of a form, unless it comes too slowly.
pub(crate) async fn in_time<T>(form: impl Future<Output = T>) -> Result<T, WebError> {
    let slow =
        |_| WebError::Slow("The form came too slowly and was given up: send it again. Nothing was stored.".into());
    timeout(SLOWEST_FORM, form).await.map_err(slow)
}

/// The next piece of a file, unless it comes too slowly.
pub(crate) async fn piece<T>(next: impl Future<Output = T>) -> Option<T> {
    timeout(SLOWEST_PIECE, next).await.ok()
}

/// The answer to an address with something that is no id.
pub(crate) fn bad_address(request: &HttpRequest) -> WebError {
    WebError::Malformed(format!(
        "{} holds something that is no id of this program: follow a link, or begin at the jobs.",
        request.path()
    ))
}

/// The answer to a query that cannot be read.
pub(crate) fn bad_query(error: &impl std::fmt::Display) -> WebError {
    WebError::Malformed(format!("What stands behind the “?” cannot be read: {error}."))
}

/// The headers of every answer.
pub(crate) fn headers() -> DefaultHeaders {
    HEADERS.iter().fold(DefaultHeaders::new(), |headers, header| headers.add(*header))
}

/// Checks Host and Origin.
pub(crate) async fn check<B: MessageBody + 'static>(
    mut request: ServiceRequest,
    next: Next<B>,
) -> Result<ServiceResponse<EitherBody<B>>, Error> {
    let port = request.app_data::<Data<Port>>().map_or(0, |port| port.0);
    let refused = if request.uri().path_and_query().is_some_and(|all| all.as_str().len() > LONGEST_ADDRESS) {
        Some((StatusCode::URI_TOO_LONG, "This address is longer than 8,192 bytes."))
    } else {
        refusal(&request, port).map(|why| (StatusCode::FORBIDDEN, why))
    };
    if let Some((status, why)) = refused {
        let body = HttpResponse::build(status).content_type("text/plain; charset=utf-8").body(why);
        return Ok(request.into_response(body).map_into_right_body());
    }
    // HEAD is GET without its body.
    let head = request.method() == Method::HEAD;
    if !head {
        return Ok(next.call(request).await?.map_into_left_body());
    }
    request.head_mut().method = Method::GET;
    let answer = next.call(request).await?;
    Ok(answer.map_body(|_, _| EitherBody::right(BoxBody::new(()))))
}

/// Logs method, path, status and time of each request.
pub(crate) async fn log<B: MessageBody + 'static>(
    request: ServiceRequest,
    next: Next<B>,
) -> Result<ServiceResponse<B>, Error> {
    let started = Instant::now();
    let (method, path) = (request.method().clone(), request.path().to_owned());
    let response = next.call(request).await?;
    let status = response.status().as_u16();
    let ms = started.elapsed().as_secs_f64() * 1000.0;
    if status >= 500 {
        tracing::error!(%method, path, status, ms, "request");
    } else {
        tracing::debug!(%method, path, status, ms, "request");
    }
    Ok(response)
}

#[cfg(test)]
mod tests {
    use super::*;
    use actix_web::test::TestRequest;

    fn asked(method: Method, headers: &[(&str, &str)]) -> Option<&'static str> {
        let mut request = TestRequest::default().method(method);
        for header in headers {
            request = request.insert_header(*header);
        }
        refusal(&request.to_srv_request(), 7671)
    }

    #[test]
    fn only_this_machine_and_this_site() {
        let host = ("host", "127.0.0.1:7671");
        assert_eq!(asked(Method::GET, &[host]), None);
        assert_eq!(asked(Method::GET, &[("host", "localhost:7671")]), None);
        assert!(asked(Method::GET, &[]).is_some());
        assert!(asked(Method::GET, &[("host", "elsewhere.example:7671")]).is_some());
        assert!(asked(Method::GET, &[("host", "127.0.0.1:80")]).is_some());
        assert_eq!(asked(Method::POST, &[host, ("origin", "http://127.0.0.1:7671")]), None);
        assert!(asked(Method::POST, &[host, ("origin", "http://elsewhere.example")]).is_some());
        assert!(asked(Method::POST, &[host, ("origin", "null")]).is_some());
        assert!(asked(Method::GET, &[host, ("origin", "https://127.0.0.1:7671")]).is_some());
        assert!(asked(Method::POST, &[host, ("sec-fetch-site", "cross-site")]).is_some());
        assert_eq!(asked(Method::GET, &[host, ("sec-fetch-site", "cross-site")]), None);
    }
}
