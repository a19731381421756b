//! Static files in the binary: styles, scripts, fonts.

use actix_web::{HttpRequest, HttpResponse, web};
use rust_embed::RustEmbed;

#[derive(RustEmbed)]
#[folder = "static/"]
struct Files;

/// Serves one file; its digest is its ETag.
pub(crate) async fn file(request: HttpRequest, path: web::Path<String>) -> HttpResponse {
    let Some(found) = Files::get(&path) else {
        return HttpResponse::NotFound().content_type("text/plain; charset=utf-8").body("There is no such file.");
    };
    let hash = found.metadata.sha256_hash();
    let etag = format!("\"{:016x}\"", u64::from_be_bytes(hash[..8].try_into().unwrap_or_default()));
    let known = request.headers().get("if-none-match").is_some_and(|given| given.as_bytes() == etag.as_bytes());
    if known {
        return HttpResponse::NotModified().insert_header(("etag", etag)).finish();
    }
    HttpResponse::Ok()
        .content_type(mime_guess::from_path(path.as_str()).first_or_octet_stream().as_ref())
        .insert_header(("etag", etag))
        .insert_header(("cache-control", "public, max-age=300"))
        .body(found.data)
}
