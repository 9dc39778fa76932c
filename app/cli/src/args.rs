//! The command line: its commands and their arguments.

use std::path::PathBuf;

use clap::{Args, Parser, Subcommand};

#[derive(Parser)]
#[command(name = "eddymist", version, about = "Inking brushes that match real pens, and line weights that match a guide")]
pub struct Cli {
    #[command(subcommand)]
    pub command: Command,
}

#[derive(Subcommand)]
pub enum Command {
    /// Reads one picture from standard input, for the other commands and the server
    #[command(hide = true)]
    Read,
    /// The sampler sheet, to print or as blank pixels
    Sheet(SheetArgs),
    /// Measure a scan
    Measure {
        #[command(subcommand)]
        what: Measure,
    },
    /// Pressure and ink of the same strokes
    Pair(PairArgs),
    /// A warm-up to a tablet profile
    Tablet {
        warmup: PathBuf,
        /// Pairs of pressure and ink, in the place of the five efforts
        #[arg(long)]
        pairs: Option<PathBuf>,
        /// The pen's card, whose scale of effort the pairs are brought to
        #[arg(long, requires = "pairs")]
        pen: Option<PathBuf>,
        #[arg(long)]
        json: bool,
    },
    /// The brush that makes this tablet draw like that pen
    Fit(FitArgs),
    /// Ink strokes or paths with a brush
    Ink(InkArgs),
    /// Hold drawings against a line guide
    Check(CheckArgs),
    /// Serve the web application (DATABASE_URL names the database)
    Serve {
        #[arg(long, default_value = "127.0.0.1:8380")]
        listen: String,
        /// The built pages
        #[arg(long, default_value = "web/dist")]
        pages: PathBuf,
        /// Show the demo's sign-ins where the demo is loaded
        #[arg(long)]
        demo: bool,
        /// The address in people's browsers, such as https://ink.studio.example; needed where --listen is no loopback address
        #[arg(long)]
        public_url: Option<String>,
        /// A proxy whose word on where a request comes from is taken: an address, or a network such as 10.0.0.0/8
        #[arg(long)]
        trusted_proxy: Vec<String>,
        /// Where the figures are served for this machine, such as 127.0.0.1:9380
        #[arg(long)]
        metrics: Option<String>,
    },
    /// Work on checks for a web application that runs elsewhere (DATABASE_URL names the database)
    Worker,
    /// Take drawings that come into a folder into a delivery, and have them checked (DATABASE_URL names the database)
    Watch(WatchArgs),
    /// Write everything in the database to a file (DATABASE_URL names the database)
    Backup { file: PathBuf },
    /// Read a backup into an empty database (DATABASE_URL names the database)
    Restore { file: PathBuf },
    /// The team's report, as PDF or CSV by the file's ending (DATABASE_URL names the database)
    Report(ReportArgs),
    /// An account that is stuck (DATABASE_URL names the database)
    Member {
        #[command(subcommand)]
        what: MemberWhat,
    },
    /// Productions (DATABASE_URL names the database)
    Production {
        #[command(subcommand)]
        what: ProductionWhat,
    },
    /// Bring the database's schema up to date
    Migrate,
    /// Load the demo production, once
    Demo,
    /// Write the JSON Schemas and the OpenAPI description
    #[command(hide = true)]
    Describe { formats: PathBuf, openapi: PathBuf },
}

#[derive(Subcommand)]
pub enum Measure {
    /// A scanned or inked sampler sheet to a pen card
    Sheet {
        scan: PathBuf,
        #[command(flatten)]
        given: GivenArgs,
        #[arg(long)]
        json: bool,
    },
    /// Ruled lines in a scan
    Line {
        scan: PathBuf,
        #[command(flatten)]
        given: GivenArgs,
        /// Part of the scan in px: X,Y,W,H
        #[arg(long)]
        area: Option<String>,
        #[arg(long)]
        json: bool,
    },
}

/// What is said of a picture, whatever its file says.
#[derive(Args)]
pub struct GivenArgs {
    /// Of both axes, or X,Y where they differ
    #[arg(long)]
    pub dpi: Option<String>,
    /// What the picture is: drawing, scan or photo
    #[arg(long)]
    pub kind: Option<String>,
    /// An ICC profile, in the place of the file's own
    #[arg(long)]
    pub icc: Option<PathBuf>,
}

#[derive(Subcommand)]
pub enum MemberWhat {
    /// A new password, printed; every sign-in of theirs ends
    Reset { email: String },
    /// They sign in no more; what they made stays
    Disable { email: String },
    /// Name, address, password and memberships go; what they made stays
    Erase { email: String },
}

#[derive(Subcommand)]
pub enum ProductionWhat {
    /// A new production, led by a member
    Add {
        name: String,
        /// The lead's address
        #[arg(long)]
        lead: String,
        /// What its pictures may take of the disk, GiB; 50 if left out
        #[arg(long)]
        quota: Option<f64>,
    },
    /// What its pictures may take of the disk, GiB
    Quota { name: String, gib: f64 },
}

#[derive(Args)]
pub struct SheetArgs {
    /// a4 or letter
    #[arg(long)]
    pub paper: String,
    /// .pdf or .svg to print, .png or .ora as blank pixels; sheet.pdf if left out
    #[arg(long)]
    pub out: Option<PathBuf>,
    /// Of the blank pixels; 600 if left out
    #[arg(long)]
    pub dpi: Option<f64>,
    /// The sheet's number, six capitals or digits; a fresh one if left out
    #[arg(long)]
    pub number: Option<String>,
    /// Print the cells in mm
    #[arg(long)]
    pub json: bool,
}

#[derive(Args)]
pub struct PairArgs {
    /// The page that was drawn on
    #[arg(long)]
    pub scan: PathBuf,
    /// What the tablet recorded (InkML)
    #[arg(long)]
    pub strokes: PathBuf,
    /// The page's lines were gone over, in mm of the scan from its top left corner; else it lay over the tablet
    #[arg(long)]
    pub over: bool,
    #[command(flatten)]
    pub given: GivenArgs,
    #[arg(long)]
    pub json: bool,
}

#[derive(Args)]
pub struct FitArgs {
    #[arg(long)]
    pub pen: PathBuf,
    #[arg(long)]
    pub warmup: Option<PathBuf>,
    #[arg(long)]
    pub tablet: Option<PathBuf>,
    /// Pairs of pressure and ink, in the place of the five efforts
    #[arg(long)]
    pub pairs: Option<PathBuf>,
    #[arg(long)]
    pub brush: Option<PathBuf>,
    /// Parts to leave as they are, comma-separated
    #[arg(long, value_delimiter = ',')]
    pub lock: Vec<String>,
    #[arg(long)]
    pub out: Option<PathBuf>,
    #[arg(long)]
    pub json: bool,
}

#[derive(Args)]
pub struct InkArgs {
    #[arg(long)]
    pub brush: PathBuf,
    #[arg(long, conflicts_with = "paths", required_unless_present = "paths")]
    pub strokes: Option<PathBuf>,
    #[arg(long)]
    pub paths: Option<PathBuf>,
    #[arg(long)]
    pub tablet: Option<PathBuf>,
    #[arg(long)]
    pub course: Option<String>,
    #[arg(long)]
    pub out: PathBuf,
    #[arg(long)]
    pub dpi: Option<f64>,
}

#[derive(Args)]
pub struct CheckArgs {
    #[arg(long)]
    pub guide: PathBuf,
    #[arg(required = true)]
    pub paths: Vec<PathBuf>,
    #[arg(long)]
    pub manifest: Option<PathBuf>,
    /// How names are read, such as {shot}_{artist}_{drawing}
    #[arg(long)]
    pub names: Option<String>,
    /// What the pictures are, where they do not show it: drawing, scan or photo
    #[arg(long)]
    pub kind: Option<String>,
    /// An ICC profile, in the place of the files' own
    #[arg(long)]
    pub icc: Option<PathBuf>,
    #[arg(long)]
    pub overlay: Option<PathBuf>,
    #[arg(long)]
    pub strict: bool,
    #[arg(long)]
    pub json: bool,
}

#[derive(Args)]
pub struct WatchArgs {
    pub folder: PathBuf,
    /// The production's name; the only one if left out
    #[arg(long)]
    pub production: Option<String>,
    /// The delivery's name, made if it is not there; the folder's name if left out
    #[arg(long)]
    pub delivery: Option<String>,
    /// The line guide's name; the first if left out
    #[arg(long)]
    pub guide: Option<String>,
    /// How names are read
    #[arg(long, default_value = "{shot}_{artist}_{drawing}")]
    pub names: String,
    /// The member in whose name it is done, by their address; a lead of the production if left out
    #[arg(long)]
    pub member: Option<String>,
    /// Take what is there now, wait until it is checked, and end
    #[arg(long)]
    pub once: bool,
}

#[derive(Args)]
pub struct ReportArgs {
    /// Where to write it: .pdf or .csv
    #[arg(long)]
    pub out: PathBuf,
    /// The production's name; the only one if left out
    #[arg(long)]
    pub production: Option<String>,
    /// Of one delivery, by its name; of all if left out
    #[arg(long)]
    pub delivery: Option<String>,
    /// The line guide's name; the one of the newest delivery if left out
    #[arg(long)]
    pub guide: Option<String>,
    #[arg(long)]
    pub shot: Option<String>,
    /// First day, such as 2026-11-24
    #[arg(long)]
    pub from: Option<String>,
    /// Last day
    #[arg(long)]
    pub to: Option<String>,
    /// artist, tablet or brush
    #[arg(long, default_value = "artist")]
    pub by: String,
    /// a4 or letter
    #[arg(long, default_value = "a4")]
    pub paper: String,
}
