//! The pages. Handlers extract, call, render; rules stand in the core, SQL in the store.
//!
//! Every page works without JavaScript: htmx improves real forms and links. Nothing is fetched
//! from elsewhere; fonts, styles and scripts are in the binary.

mod assets;
mod cpu_pool;
mod draw;
mod error;
mod feed;
mod forms;
mod frame;
mod guard;
mod pages;
mod request;
mod routes;
mod signing_session;
mod words;

use actix_web::middleware::{Compress, from_fn};
use actix_web::web::{self, Data};
use actix_web::{App, HttpServer};
use proof_store::Store;
use std::net::TcpListener;
use std::sync::{Arc, OnceLock};

/// Most bytes of a form.
const MOST_FORM_BYTES: usize = 1024 * 1024;
/// How long open requests may take when the program is asked to stop, s.
const SHUTDOWN_S: u64 = 5;

/// What every handler may use.
#[derive(Clone)]
pub struct Shared {
    /// The database.
    pub store: Store,
    held: signing_session::Held,
    benches: pages::bench::Benches,
    feeds: feed::Feeds,
    altered: Arc<OnceLock<Vec<String>>>,
}

impl Shared {
    /// Over a database; the signing key is closed.
    pub fn new(store: Store) -> Self {
        Self {
            store,
            held: signing_session::Held::default(),
            benches: pages::bench::Benches::default(),
            feeds: feed::Feeds::default(),
            altered: Arc::default(),
        }
    }

    /// Looks for rows that were altered past the program, beside the pages: what is found is logged, and stands on the
    /// list of jobs.
    fn look_for_altered(&self) {
        let (store, altered) = (self.store.clone(), self.altered.clone());
        std::thread::spawn(move || match store.altered() {
            Ok(rows) => {
                let rows: Vec<String> = rows.iter().map(ToString::to_string).collect();
                for row in &rows {
                    tracing::warn!("{row}: compare it with a backup; proof doctor tells more");
                }
                // Set once: this thread alone does.
                let _ = altered.set(rows);
            }
            Err(error) => tracing::error!(%error, "the digests of the rows could not be compared"),
        });
    }
}

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
