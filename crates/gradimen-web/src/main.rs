//! The command line: thin on purpose.

use std::io::Read;
use std::net::SocketAddr;
use std::path::PathBuf;
use std::process::ExitCode;

use anyhow::Context;
use clap::{Parser, Subcommand};
use gradimen_bench::export::report::{self, Report};
use gradimen_bench::job::Job;
use gradimen_bench::journal::{self, Document};
use gradimen_web::{Settings, demo, serve};
use tracing_subscriber::filter::LevelFilter;

#[derive(Parser)]
#[command(
    name = "gradimen",
    version,
    about = "Setup of electric guitars and basses: which screw, which way, how far."
)]
struct Arguments {
    #[command(subcommand)]
    command: Command,
}

#[derive(Subcommand)]
enum Command {
    /// Start on a kept data file.
    Serve {
        /// Folder of the data file; made when it is not there.
        #[arg(long, default_value = "data")]
        data: PathBuf,
        /// Address to listen on; loopback only for now.
        #[arg(long, default_value = "127.0.0.1:8626")]
        listen: SocketAddr,
    },
    /// Start with demo data, made anew in a temporary folder.
    Demo {
        /// Address to listen on; loopback only for now.
        #[arg(long, default_value = "127.0.0.1:8626")]
        listen: SocketAddr,
    },
    /// Print the computed state and plan of a job document as JSON.
    Plan {
        /// The document, or - for standard input.
        file: PathBuf,
    },
    /// Print a JSON Schema of the documents read and written.
    Schema {
        /// Of which document.
        #[arg(value_enum)]
        of: SchemaOf,
    },
}

#[derive(Clone, Copy, clap::ValueEnum)]
enum SchemaOf {
    /// The job document.
    Job,
    /// The plan document.
    Plan,
}

/// A bad document is told apart from a failure of the program.
const BAD_DOCUMENT: u8 = 2;

fn main() -> ExitCode {
    let wanted = std::env::var("RUST_LOG").ok();
    let shown = wanted.and_then(|level| level.parse().ok());
    tracing_subscriber::fmt()
        .with_writer(std::io::stderr)
        .with_max_level(shown.unwrap_or(LevelFilter::WARN))
        .init();
    match run(Arguments::parse().command) {
        Ok(code) => code,
        Err(error) => {
            eprintln!("gradimen: {error:#}");
            ExitCode::FAILURE
        }
    }
}

fn run(command: Command) -> anyhow::Result<ExitCode> {
    match command {
        Command::Serve { data, listen } => actix_web::rt::System::new().block_on(async {
            serve(Settings {
                data,
                listen,
                greets: false,
            })
            .await?;
            Ok(ExitCode::SUCCESS)
        }),
        Command::Demo { listen } => actix_web::rt::System::new().block_on(async {
            let folder = std::env::temp_dir().join(format!("gradimen-demo-{}", std::process::id()));
            demo::fill(&folder).await?;
            let result = serve(Settings {
                data: folder.clone(),
                listen,
                greets: true,
            })
            .await;
            std::fs::remove_dir_all(&folder).ok();
            result?;
            Ok(ExitCode::SUCCESS)
        }),
        Command::Plan { file } => Ok(plan(&file)),
        Command::Schema { of } => {
            let schema = match of {
                SchemaOf::Job => journal::document::schema(),
                SchemaOf::Plan => report::schema(),
            };
            println!("{}", serde_json::to_string_pretty(&schema)?);
            Ok(ExitCode::SUCCESS)
        }
    }
}

fn plan(file: &PathBuf) -> ExitCode {
    let worked = read(file)
        .and_then(|text| Ok(Job::fold(&Document::parse(&text)?.events)?))
        .and_then(|job| Ok(serde_json::to_string_pretty(&Report::of(&job)?)?));
    match worked {
        Ok(text) => {
            println!("{text}");
            ExitCode::SUCCESS
        }
        Err(error) => {
            // One line, whatever the document had in it.
            let line = format!("{error:#}").replace(['\n', '\r'], " ");
            eprintln!("gradimen: {}: {line}", file.display());
            ExitCode::from(BAD_DOCUMENT)
        }
    }
}

fn read(file: &PathBuf) -> anyhow::Result<String> {
    if file.as_os_str() == "-" {
        let mut text = String::new();
        std::io::stdin()
            .read_to_string(&mut text)
            .context("standard input cannot be read as text")?;
        Ok(text)
    } else {
        std::fs::read_to_string(file).context("cannot be read as text")
    }
}
