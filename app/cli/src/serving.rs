//! `serve`, `worker`, `watch`, `report`, `member`, `production`, `backup`, `restore`, `migrate` and `demo`: the web application's own commands.

use std::path::Path;

use eddymist_check::team::By;
use eddymist_server::MemberAct;

use crate::{
    args::{MemberWhat, ProductionWhat, ReportArgs, WatchArgs},
    fail::{Done, Fail},
};

fn block<F: std::future::Future<Output = Result<(), eddymist_server::StartError>>>(f: F) -> Done {
    let runtime = tokio::runtime::Builder::new_multi_thread().enable_all().build().map_err(Fail::internal)?;
    runtime.block_on(f).map(|()| 0).map_err(|e| Fail { status: e.status(), message: e.to_string() })
}

/// Serves until it is told to stop.
pub fn serve(served: &eddymist_server::Served<'_>) -> Done {
    block(eddymist_server::serve(served))
}

/// Helps an account that is stuck.
pub fn member(what: &MemberWhat) -> Done {
    let (act, email) = match what {
        MemberWhat::Reset { email } => (MemberAct::Reset, email),
        MemberWhat::Disable { email } => (MemberAct::Disable, email),
        MemberWhat::Erase { email } => (MemberAct::Erase, email),
    };
    block(async {
        println!("{}", eddymist_server::keep_member(act, email).await?);
        Ok(())
    })
}

/// Makes a production, or sets its share of the disk.
pub fn production(what: &ProductionWhat) -> Done {
    let (name, lead, quota) = match what {
        ProductionWhat::Add { name, lead, quota } => (name, Some(lead.as_str()), *quota),
        ProductionWhat::Quota { name, gib } => (name, None, Some(*gib)),
    };
    block(async {
        println!("{}", eddymist_server::keep_production(name, lead, quota).await?);
        Ok(())
    })
}

/// Works on checks until it is told to stop.
pub fn worker() -> Done {
    block(eddymist_server::worker())
}

/// Watches a folder until it is told to stop.
pub fn watch(args: &WatchArgs) -> Done {
    if !args.folder.is_dir() {
        return Err(Fail::input(&args.folder, "this is no folder; name the folder that drawings come into"));
    }
    block(eddymist_server::watch(eddymist_server::Watched {
        folder: args.folder.clone(),
        production: args.production.clone(),
        delivery: args.delivery.clone(),
        guide: args.guide.clone(),
        names: args.names.clone(),
        member: args.member.clone(),
        once: args.once,
    }))
}

/// Writes everything to a file.
pub fn backup(file: &Path) -> Done {
    eddymist_server::backup(file).map(|()| 0).map_err(|e| Fail { status: e.status(), message: e.to_string() })
}

/// Reads a backup into an empty database.
pub fn restore(file: &Path) -> Done {
    block(eddymist_server::restore(file))
}

/// Writes the team's report.
pub fn report(args: &ReportArgs) -> Done {
    let kind = args.out.extension().map(|e| e.to_string_lossy().to_lowercase()).filter(|k| k == "pdf" || k == "csv");
    let Some(kind) = kind else { return Err(Fail::input(&args.out, "the file's name has to end in .pdf or .csv")) };
    let by = match args.by.as_str() {
        "artist" => By::Artist,
        "tablet" => By::Tablet,
        "brush" => By::Brush,
        other => return Err(Fail { status: 2, message: format!("--by {other}: expected artist, tablet or brush") }),
    };
    let asked = eddymist_server::Reported {
        production: args.production.clone(),
        delivery: args.delivery.clone(),
        guide: args.guide.clone(),
        shot: args.shot.clone(),
        from: args.from.clone(),
        to: args.to.clone(),
        by: Some(by),
        paper: args.paper.clone(),
        kind,
    };
    let out = args.out.clone();
    block(async move {
        let bytes = eddymist_server::report(asked).await?;
        std::fs::write(&out, bytes).map_err(|e| eddymist_server::StartError::Other(format!("{}: {e}", out.display())))
    })
}

/// Brings the schema up to date.
pub fn migrate() -> Done {
    block(eddymist_server::migrate())
}

/// Loads the demo production, if it is not there.
pub fn demo() -> Done {
    block(eddymist_server::load_demo())
}

/// Writes what other programs read: schemas and the interface's description.
pub fn describe(formats: &Path, openapi: &Path) -> Done {
    for (name, schema) in eddymist_server::schemas() {
        let text = serde_json::to_string_pretty(&schema).map_err(Fail::internal)?;
        crate::fail::write(&formats.join(format!("{name}.schema.json")), (text + "\n").as_bytes())?;
    }
    let text = serde_json::to_string_pretty(&eddymist_server::openapi()).map_err(Fail::internal)?;
    crate::fail::write(openapi, (text + "\n").as_bytes())?;
    Ok(0)
}
