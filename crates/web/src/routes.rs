//! Every route, in the order of the work.

use crate::assets;
use crate::error::WebError;
use crate::pages::{
    answers, begin, bench, board, certificate, circuit, circuit_form, circuits_in, copies, documents, energise,
    explained, first, import, inspection, isolate, job, jobs, keys, log_in, origin, own_copy, particulars, patterns,
    reference, registers, review, rule_effects, run, series, sheet, state, verify, withdraw, ze,
};
use crate::request::blocking;
use crate::shared::Shared;
use actix_web::http::Method;
use actix_web::web::{self, Data};
use actix_web::{HttpRequest, HttpResponse};

/// Every route.
pub(crate) fn all(config: &mut web::ServiceConfig) {
    config
        .route("/healthz", web::get().to(health))
        .route("/static/{path:.*}", web::get().to(assets::file))
        .route("/", web::get().to(jobs::list))
        .route("/first", web::post().to(first::begin))
        .route("/jobs/new", web::get().to(jobs::new))
        .route("/jobs", web::post().to(jobs::create))
        .route("/import", web::get().to(import::form))
        .route("/import", web::post().to(import::receive))
        .route("/firm", web::get().to(registers::show))
        .route("/firm", web::post().to(registers::save_firm))
        .route("/firm/people", web::post().to(registers::save_person))
        .route("/firm/instruments", web::post().to(registers::save_instrument))
        .route("/firm/rules", web::post().to(registers::save_rules))
        .route("/firm/instruments/{instrument}", web::get().to(registers::instrument))
        .route("/firm/instruments/{instrument}", web::post().to(registers::change_instrument))
        .route("/firm/instruments/{instrument}/checks", web::post().to(registers::add_check))
        .route("/firm/patterns/{pattern}/remove", web::post().to(patterns::remove))
        .route("/firm/key", web::get().to(keys::show))
        .route("/firm/key", web::post().to(keys::put))
        .route("/firm/key/export", web::post().to(keys::export))
        .route("/firm/key/passphrase", web::post().to(keys::passphrase))
        .route("/firm/key/close", web::post().to(keys::close))
        .route("/firm/key/FIRM.pub", web::get().to(keys::public))
        .route("/practice", web::get().to(bench::list))
        .route("/practice", web::post().to(bench::begin))
        .route("/practice/questions", web::get().to(bench::questions::show))
        .route("/practice/questions", web::post().to(bench::questions::judge))
        .route("/practice/{id}", web::get().to(bench::show))
        .route("/practice/{id}/act", web::post().to(bench::act))
        .route("/practice/{id}/finish", web::post().to(bench::finish))
        .route("/reference", web::get().to(reference::show))
        .route("/reference/own", web::get().to(own_copy::show))
        .route("/reference/own", web::post().to(own_copy::add))
        .route("/reference/own.json", web::get().to(own_copy::export))
        .route("/reference/own/import", web::post().to(own_copy::receive))
        .route("/reference/calc/{name}", web::get().to(reference::calculator))
        .route("/verify", web::get().to(verify::show))
        .route("/verify", web::post().to(verify::receive))
        .route("/look", web::post().to(registers::look))
        .route("/look.css", web::get().to(registers::look_sheet))
        .service(web::scope("/jobs/{job}").configure(job_routes))
        .default_service(web::to(nothing_here));
}

/// Of one job: what is described, its boards, its papers.
fn job_routes(config: &mut web::ServiceConfig) {
    config
        .route("", web::get().to(job::show))
        .route("/left", web::get().to(job::left))
        .route("/job.json", web::get().to(job::export))
        .route("/begin", web::get().to(begin::show))
        .route("/begin", web::post().to(begin::confirm))
        .route("/pattern", web::post().to(patterns::keep_job))
        .route("/boards/{board}/pattern", web::post().to(patterns::keep_board))
        .route("/particulars", web::get().to(particulars::show))
        .route("/particulars", web::post().to(particulars::save))
        .route("/boards", web::post().to(board::add))
        .route("/boards/{board}", web::get().to(board::show))
        .route("/boards/{board}", web::post().to(board::save))
        .route("/boards/{board}/circuits", web::post().to(board::add_circuit))
        .route("/boards/{board}/energise", web::get().to(energise::show))
        .route("/boards/{board}/energise", web::post().to(energise::record))
        .route("/boards/{board}/tests", web::get().to(origin::show_board))
        .route("/boards/{board}/tests/readings", web::post().to(origin::enter_board))
        .route("/boards/{board}/tests/strike", web::post().to(origin::strike_board))
        .route("/boards/{board}/isolate", web::get().to(isolate::show))
        .route("/boards/{board}/isolate", web::post().to(isolate::record))
        .route("/boards/{board}/in-use", web::post().to(state::in_use))
        .route("/boards/{board}/leave-dead", web::post().to(state::leave_dead))
        .route("/boards/{board}/put-back", web::post().to(state::put_back))
        .route("/boards/{board}/sheet", web::get().to(sheet::show))
        .route("/boards/{board}/sheet", web::post().to(sheet::receive))
        .route("/boards/{board}/circuits-in", web::get().to(circuits_in::show))
        .route("/boards/{board}/circuits-in", web::post().to(circuits_in::look))
        .route("/boards/{board}/circuits-in/take", web::post().to(circuits_in::take))
        .route("/boards/{board}/withdraw", web::post().to(withdraw::board))
        .route("/boards/{board}/copy", web::post().to(copies::board))
        .route("/boards/{board}/paper/{kind}", web::get().to(board::paper))
        .route("/rules", web::get().to(rule_effects::all))
        .route("/rules/effect", web::get().to(rule_effects::one))
        .route("/documents", web::get().to(documents::show))
        .route("/documents", web::post().to(documents::add))
        .route("/documents/{document}", web::get().to(documents::file))
        .route("/documents/{document}/remove", web::post().to(documents::remove))
        .route("/inspection", web::get().to(inspection::show))
        .route("/inspection", web::post().to(inspection::save))
        .route("/review", web::get().to(review::show))
        .route("/review/judge", web::post().to(review::judge))
        .route("/certificate", web::get().to(certificate::show))
        .route("/certificate", web::post().to(certificate::issue))
        .route("/certificate/draft.pdf", web::get().to(certificate::draft))
        .route("/certificates/{number}/{kind}", web::get().to(certificate::paper));
    circuit_routes(config);
    run_routes(config);
}

/// Of one circuit.
fn circuit_routes(config: &mut web::ServiceConfig) {
    config
        .route("/circuits/{circuit}", web::get().to(circuit::show))
        .route("/circuits/{circuit}/explained", web::get().to(explained::show))
        .route("/circuits/{circuit}/readings", web::post().to(circuit::enter))
        .route("/circuits/{circuit}/strike", web::post().to(circuit::strike))
        .route("/circuits/{circuit}/answer", web::post().to(answers::answer))
        .route("/circuits/{circuit}/take-back", web::post().to(answers::take_back))
        .route("/circuits/{circuit}/bench", web::get().to(bench::tried::show))
        .route("/circuits/{circuit}/bench", web::post().to(bench::tried::open))
        .route("/circuits/{circuit}/edit", web::get().to(circuit_form::show))
        .route("/circuits/{circuit}/edit", web::post().to(circuit_form::save))
        .route("/circuits/{circuit}/copy", web::post().to(copies::circuit))
        .route("/circuits/{circuit}/series", web::post().to(series::enter))
        .route("/circuits/{circuit}/withdraw", web::post().to(withdraw::circuit))
        .route("/circuits/{circuit}/remove", web::post().to(circuit_form::remove));
}

/// The run, and the origin.
fn run_routes(config: &mut web::ServiceConfig) {
    config
        .route("/run", web::get().to(run::show))
        .route("/run/plan", web::get().to(run::plan))
        .route("/run/order", web::post().to(run::order))
        .route("/run/answer", web::post().to(run::answer))
        .route("/run/act", web::post().to(run::act))
        .route("/run/readings", web::post().to(run::enter))
        .route("/run/energise", web::post().to(run::energise))
        .route("/run/walked", web::post().to(run::walked))
        .route("/run/opened", web::post().to(run::opened))
        .route("/run/take-back", web::post().to(run::take_back))
        .route("/log-in", web::get().to(log_in::show))
        .route("/log-in", web::post().to(log_in::look))
        .route("/log-in/take", web::post().to(log_in::take))
        .route("/run/join", web::post().to(run::feed::join))
        .route("/run/leave", web::post().to(run::feed::leave))
        .route("/run/feed", web::post().to(run::feed::look))
        .route("/origin", web::get().to(origin::show))
        .route("/origin/readings", web::post().to(origin::enter))
        .route("/origin/strike", web::post().to(origin::strike))
        .route("/origin/ze", web::get().to(ze::show))
        .route("/origin/ze", web::post().to(ze::file))
        .route("/origin/ze/sent", web::post().to(ze::look))
        .route("/origin/expose", web::post().to(ze::expose));
}

async fn nothing_here(request: HttpRequest) -> Result<HttpResponse, WebError> {
    if request.resource_map().has_resource(request.path()) {
        let way = if request.method() == Method::GET {
            "it takes a form: go back to the page that has it"
        } else {
            "open it, or send the form that is on it"
        };
        return Err(WebError::Method(format!("{} does not answer {}: {way}.", request.path(), request.method())));
    }
    Err(WebError::NotFound(format!("There is no page {}.", request.path())))
}

async fn health(shared: Data<Shared>) -> Result<HttpResponse, WebError> {
    blocking(move || Ok(shared.store.health()?)).await?;
    Ok(HttpResponse::Ok().content_type("application/json").body("{\"status\":\"ok\"}\n"))
}
