//! The eddymist command: measuring without a database, and the web application's own commands.

mod args;
mod check;
mod fail;
mod ink;
mod measuring;
mod pairing;
mod serving;
mod sheet;

use clap::Parser;
use fail::Fail;

use crate::args::{Cli, Command, Measure};

fn main() -> std::process::ExitCode {
    let done = match Cli::parse().command {
        Command::Read => return eddymist_reader::child(),
        Command::Sheet(args) => sheet::run(&args),
        Command::Measure { what: Measure::Line { scan, given, area, json } } => measuring::line(&scan, &given, area.as_deref(), json),
        Command::Measure { what: Measure::Sheet { scan, given, json } } => measuring::sheet(&scan, &given, json),
        Command::Pair(args) => pairing::run(&args),
        Command::Tablet { warmup, pairs, pen, json } => measuring::tablet(&warmup, pairs.as_deref(), pen.as_deref(), json),
        Command::Fit(args) => measuring::fit(&args),
        Command::Ink(args) => ink::run(&args),
        Command::Check(args) => check::run(&args),
        Command::Serve { listen, pages, demo, public_url, trusted_proxy, metrics } => serving::serve(&eddymist_server::Served {
            listen: &listen,
            pages: &pages,
            demo,
            public_url: public_url.as_deref(),
            trusted_proxies: &trusted_proxy,
            metrics: metrics.as_deref(),
        }),
        Command::Member { what } => serving::member(&what),
        Command::Production { what } => serving::production(&what),
        Command::Worker => serving::worker(),
        Command::Watch(args) => serving::watch(&args),
        Command::Backup { file } => serving::backup(&file),
        Command::Restore { file } => serving::restore(&file),
        Command::Report(args) => serving::report(&args),
        Command::Migrate => serving::migrate(),
        Command::Demo => serving::demo(),
        Command::Describe { formats, openapi } => serving::describe(&formats, &openapi),
    };
    match done {
        Ok(code) => code.into(),
        Err(Fail { status, message }) => {
            eprintln!("eddymist: {}", message.replace('\n', " "));
            status.into()
        }
    }
}
