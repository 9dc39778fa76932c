//! The web application's server: routes, sign-in, jobs. Queries are `eddymist-store`'s, computation is core's.

mod access;
mod address;
mod app;
mod backup;
mod demo;
mod describe;
mod drain;
mod error;
mod etag;
mod figures;
mod heavy;
mod keeper;
mod kept;
mod listen;
mod metrics;
mod plain;
mod problem;
mod room;
mod routes;
mod state;
mod work;

use std::{path::Path, sync::Arc};

use address::Reached;
pub use backup::{backup, restore};
pub use describe::{openapi, schemas};
use eddymist_store::{model, store};
pub use error::StartError;
pub use keeper::{MemberAct, keep_member, keep_production};
use state::State;
pub use work::watch::Watched;

/// How the web application is served.
pub struct Served<'a> {
    pub listen: &'a str,
    pub pages: &'a Path,
    /// Show the demo's sign-ins.
    pub demo: bool,
    /// The address in people's browsers.
    pub public_url: Option<&'a str>,
    pub trusted_proxies: &'a [String],
    /// Where the figures are served, to this machine alone.
    pub metrics: Option<&'a str>,
}

/// Serves until the process is told to stop.
pub async fn serve(s: &Served<'_>) -> Result<(), StartError> {
    log();
    let reached = Reached::new(s.listen, s.public_url, s.trusted_proxies, s.demo)?;
    let mut state = State::connect().await?;
    state.reached = Arc::new(reached);
    if s.demo {
        state.demo_sign_ins = demo::sign_ins().into();
    }
    state.migrate().await?;
    if let Some(listen) = s.metrics {
        figures::serve(listen, state.clone()).await?;
    }
    keeper::print_setup_code(&state).await?;
    let sweeping = tokio::spawn(keeper::sweep_hourly(state.clone()));
    let worker = tokio::spawn(work::checks::work(state.clone()));
    let listener = tokio::net::TcpListener::bind(s.listen).await.map_err(|e| StartError::Listen(s.listen.into(), e))?;
    let stopping = state.stopping.clone();
    let app = app::app(state, s.pages).await?;
    let stop = async move {
        stopped().await;
        // Open event streams would hold a graceful stop for ever.
        stopping.cancel();
    };
    listen::serve(listener, app, stop).await;
    worker.abort();
    sweeping.abort();
    Ok(())
}

fn log() {
    use std::io::IsTerminal;
    tracing_subscriber::fmt().with_writer(std::io::stderr).with_ansi(std::io::stderr().is_terminal()).with_max_level(tracing::Level::WARN).init();
}

/// Works on checks until the process is told to stop; the web application may run on another machine.
pub async fn worker() -> Result<(), StartError> {
    log();
    let state = State::connect().await?;
    state.migrate().await?;
    tokio::select! {
        () = work::checks::work(state) => Err(StartError::Other("the worker has ended by itself".into())),
        () = stopped() => Ok(()),
    }
}

/// Takes drawings that come into a folder into a delivery, until the process is told to stop.
pub async fn watch(watched: Watched) -> Result<(), StartError> {
    let state = State::connect().await?;
    state.migrate().await?;
    tokio::select! {
        ended = work::watch::run(&state, &watched) => ended,
        () = stopped() => Ok(()),
    }
}

async fn stopped() {
    let interrupted = tokio::signal::ctrl_c();
    match tokio::signal::unix::signal(tokio::signal::unix::SignalKind::terminate()) {
        Ok(mut ended) => {
            tokio::select! { _ = interrupted => {}, _ = ended.recv() => {} }
        }
        Err(_) => {
            let _ = interrupted.await;
        }
    }
}

/// What a report is asked for.
pub struct Reported {
    pub production: Option<String>,
    pub delivery: Option<String>,
    pub guide: Option<String>,
    pub shot: Option<String>,
    pub from: Option<String>,
    pub to: Option<String>,
    pub by: Option<eddymist_check::team::By>,
    pub paper: String,
    /// pdf or csv.
    pub kind: String,
}

/// The team's report, as the page gives it.
pub async fn report(asked: Reported) -> Result<Vec<u8>, StartError> {
    let state = State::connect().await?;
    state.up_to_date().await?;
    let access = work::watch::acting_in(&state, asked.production.as_deref(), None).await?;
    let named = |what: &str, name: &str, known: Vec<&str>| {
        let known = if known.is_empty() { String::new() } else { format!("; there are {}", known.join(", ")) };
        StartError::Usage(format!("there is no {what} “{name}” in this production{known}"))
    };
    let delivery = match &asked.delivery {
        Some(name) => {
            let all = store::deliveries::list(&state.pool, access.production).await?;
            let found = all.iter().find(|d| d.name == *name);
            Some(found.ok_or_else(|| named("delivery", name, all.iter().map(|d| d.name.as_str()).collect()))?.id)
        }
        None => None,
    };
    let guide = match &asked.guide {
        Some(name) => {
            let all = store::guides::list(&state.pool, access.production).await?;
            let found = all.iter().find(|g| g.guide.name == *name);
            Some(found.ok_or_else(|| named("line guide", name, all.iter().map(|g| g.guide.name.as_str()).collect()))?.id)
        }
        None => None,
    };
    let ask = model::TeamAsk { guide, delivery, shot: asked.shot, from: asked.from, to: asked.to, by: asked.by, paper: Some(asked.paper) };
    let production = store::members::production_name(&state.pool, access.production).await?;
    work::report::report(&state, &access, &production, &asked.kind, &ask).await.map(|r| r.1).map_err(|p| StartError::Usage(p.detail))
}

/// Brings the schema up to date.
pub async fn migrate() -> Result<(), StartError> {
    State::connect().await?.migrate().await
}

/// Loads the demo production, once.
pub async fn load_demo() -> Result<(), StartError> {
    let state = State::connect().await?;
    state.migrate().await?;
    demo::load(&state).await.map_err(StartError::Other)
}
