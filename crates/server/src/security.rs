//! What every request must show and every answer carries.

use actix_web::body::MessageBody;
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::http::Method;
use actix_web::http::header::{self, HeaderMap, HeaderName, HeaderValue};
use actix_web::middleware::Next;
use actix_web::{Error, HttpMessage};

use crate::api::ApiError;
use crate::connections::{Client, Read};

/// The random word of one answer that allows the page's own style elements.
pub struct Nonce(pub String);

/// Answers only to names of this machine, so that a page elsewhere cannot reach us through a name of its
/// own that it lets point here; changes something only for our own page; unpacks nothing; sets the security headers, on refusals as well. HEAD is
/// answered as GET is: the server leaves the body out.
///
/// Only the Host that the connection itself brought counts: whoever lets a name point here can send forwarded headers
/// along, too.
pub async fn guard(
    mut request: ServiceRequest,
    next: Next<impl MessageBody + 'static>,
) -> Result<ServiceResponse<impl MessageBody>, Error> {
    let nonce = uuid::Uuid::new_v4().simple().to_string();
    let policy = format!(
        "default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; style-src 'self' 'nonce-{nonce}'; \
         img-src 'self' data: blob:; worker-src 'self'; connect-src 'self'; object-src 'none'; \
         base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
    );
    request.extensions_mut().insert(Nonce(nonce));
    let refused = refusal(&request);
    if request.method() == Method::HEAD {
        request.head_mut().method = Method::GET;
    }
    let read = Read::watch(&mut request);
    let mut response = match refused {
        Some(refusal) => request.error_response(refusal).map_into_right_body(),
        None => next.call(request).await?.map_into_left_body(),
    };
    read.end(&mut response);
    let fixed = [
        (header::X_CONTENT_TYPE_OPTIONS, "nosniff"),
        (header::REFERRER_POLICY, "no-referrer"),
        (HeaderName::from_static("cross-origin-opener-policy"), "same-origin"),
        (HeaderName::from_static("cross-origin-resource-policy"), "same-origin"),
        (HeaderName::from_static("permissions-policy"), "camera=(), geolocation=(), microphone=()"),
    ];
    let headers = response.headers_mut();
    for (name, value) in fixed {
        headers.insert(name, HeaderValue::from_static(value));
    }
    if let Ok(policy) = HeaderValue::from_str(&policy) {
        headers.insert(header::CONTENT_SECURITY_POLICY, policy);
    }
    Ok(response)
}

/// Why a request is not even handed on.
fn refusal(request: &ServiceRequest) -> Option<ApiError> {
    let host = text(request.headers(), &header::HOST).unwrap_or_default();
    if !is_this_machine(host) {
        return Some(ApiError::host(host));
    }
    if !request.method().is_safe() && !comes_from(request.headers(), host) {
        return Some(ApiError::elsewhere());
    }
    if let Some(encoding) = request.headers().get(header::CONTENT_ENCODING) {
        return Some(ApiError::encoded(encoding.to_str().unwrap_or_default()));
    }
    // Whether the program lives is answered whatever else goes on.
    let is_health = request.path().starts_with("/api/health");
    (!is_health && Client::are_many()).then(ApiError::busy)
}

/// Whether the headers say that a page of this very origin has sent a request: browsers add `Origin` to whatever may
/// change something, and `Sec-Fetch-Site` to everything (Fetch Standard; Fetch Metadata Request Headers, W3C). What
/// says neither is refused as well.
fn comes_from(headers: &HeaderMap, host: &str) -> bool {
    let here = format!("http://{host}");
    let origin = text(headers, &header::ORIGIN).map(|origin| origin.eq_ignore_ascii_case(&here));
    let site = text(headers, &HeaderName::from_static("sec-fetch-site")).map(|site| site == "same-origin");
    match (origin, site) {
        (None, None) => false,
        (origin, site) => origin.unwrap_or(true) && site.unwrap_or(true),
    }
}

/// A header that comes once and is text; one that comes twice says nothing.
fn text<'a>(headers: &'a HeaderMap, name: &HeaderName) -> Option<&'a str> {
    let mut all = headers.get_all(name);
    let first = all.next()?;
    Some(if all.next().is_none() { first.to_str().unwrap_or_default() } else { "" })
}

/// Whether a Host header names the loopback interface.
fn is_this_machine(host: &str) -> bool {
    let name = match host.strip_prefix('[') {
        Some(v6) => v6.split(']').next().unwrap_or_default(),
        None => host.split(':').next().unwrap_or_default(),
    };
    name.eq_ignore_ascii_case("localhost")
        || name.parse::<std::net::IpAddr>().is_ok_and(|address| address.is_loopback())
}
