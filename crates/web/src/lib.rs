//! The pages. Handlers extract, call, render; rules stand in the core, SQL in the store.
//!
//! Every page works without JavaScript: htmx improves real forms and links. Nothing is fetched
//! from elsewhere; fonts, styles and scripts are in the binary.

mod assets;
mod bench_cache;
mod cpu_pool;
mod draw;
mod error;
mod feed;
mod forms;
mod frame;
mod guard;
mod open_key;
mod pages;
mod request;
mod routes;
mod shared;
mod signing_session;
mod words;

use actix_web::middleware::{Compress, from_fn};
use actix_web::web::{self, Data};
use actix_web::{App, HttpServer};
use proof_store::Store;
pub use shared::Shared;
use std::net::TcpListener;

/// Most bytes of a form.
const MOST_FORM_BYTES: usize = 1024 * 1024;
/// How long open requests may take when the program is asked to stop, s.
const SHUTDOWN_S: u64 = 5;

/// Serves the pages until Ctrl-C or SIGTERM; open requests are answered first.
///
/// # Errors
/// When the listener cannot be used.
pub async fn serve(listener: TcpListener, store: Store) -> std::io::Result<()> {
    let address = listener.local_addr()?;
    tracing::info!(%address, "serving");
    let shared = Shared::new(store);
    shared.look_for_altered();
    shared.feeds.resume(&shared.store);
    HttpServer::new(move || application(shared.clone(), address.port()))
        .workers(2)
        .shutdown_timeout(SHUTDOWN_S)
        .client_request_timeout(guard::SLOWEST_HEAD)
        .listen(listener)?
        .run()
        .await?;
    tracing::info!("stopped");
    Ok(())
}

/// The application, for the server and for tests. `port` is the one that Host must name.
pub fn application(
    shared: Shared,
    port: u16,
) -> App<
    impl actix_web::dev::ServiceFactory<
        actix_web::dev::ServiceRequest,
        Config = (),
        Response = actix_web::dev::ServiceResponse<impl actix_web::body::MessageBody>,
        Error = actix_web::Error,
        InitError = (),
    >,
> {
    App::new()
        .app_data(Data::new(shared))
        .app_data(Data::new(guard::Port(port)))
        .app_data(web::PayloadConfig::new(MOST_FORM_BYTES))
        .app_data(web::PathConfig::default().error_handler(|_, request| guard::bad_address(request).into()))
        .app_data(web::QueryConfig::default().error_handler(|error, _| guard::bad_query(&error).into()))
        .wrap(from_fn(guard::check))
        .wrap(guard::headers())
        .wrap(Compress::default())
        .wrap(from_fn(guard::log))
        .configure(routes::all)
}
