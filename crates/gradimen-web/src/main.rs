//! The command line: thin on purpose.

use std::io::{IsTerminal, Read};
use std::net::SocketAddr;
use std::path::{Path, PathBuf};
use std::process::ExitCode;

use anyhow::Context;
use clap::{Parser, Subcommand};
use gradimen_bench::export::report::{self, Report};
use gradimen_bench::job::Job;
use gradimen_bench::journal::{self, Document};
use gradimen_core::pitch::{ConcertPitch, Note};
use gradimen_core::quantity::Frequency;
use gradimen_ear::{Ear, Sound};
use gradimen_store::accounts::{self, Role};
use gradimen_store::backup;
use gradimen_store::verify::verify;
use gradimen_store::{Store, StoreError};
use gradimen_web::{Settings, demo, serve};
use jiff::Timestamp;
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
        /// Address to listen on. Other machines are served with encryption, and whoever is there signs in.
        #[arg(long, default_value = "127.0.0.1:8626")]
        listen: SocketAddr,
        /// A name or address under which other machines speak to this one; as often as there are.
        #[arg(long)]
        name: Vec<String>,
        /// The shop's own certificate, as PEM; where none is given one is made, and its fingerprint shown.
        #[arg(long, requires = "key")]
        certificate: Option<PathBuf>,
        /// Its key, as PEM.
        #[arg(long, requires = "certificate")]
        key: Option<PathBuf>,
        /// Let people sign in on this machine, too.
        #[arg(long)]
        sign_in: bool,
    },
    /// Who may sign in; also while the program runs.
    Account {
        #[command(subcommand)]
        change: AccountChange,
        /// Folder of the data file.
        #[arg(long, default_value = "data", global = true)]
        data: PathBuf,
    },
    /// Start with demo data, made anew in a temporary folder.
    Demo {
        /// Address to listen on; loopback only for now.
        #[arg(long, default_value = "127.0.0.1:8626")]
        listen: SocketAddr,
    },
    /// Copy the data to a new file, also while the program runs.
    Backup {
        /// Where to; there must be nothing yet.
        file: PathBuf,
        /// Folder of the data file.
        #[arg(long, default_value = "data")]
        data: PathBuf,
    },
    /// Put a copy back: at once when the program does not run, or at its next start. What is there now is set aside.
    Restore {
        /// The copy.
        file: PathBuf,
        /// Folder of the data file.
        #[arg(long, default_value = "data")]
        data: PathBuf,
    },
    /// Look through a data file: is it sound, does every sum hold, can every job be worked out?
    Verify {
        /// Folder of the data file.
        #[arg(long, default_value = "data")]
        data: PathBuf,
        /// Another file, such as a copy.
        #[arg(long)]
        file: Option<PathBuf>,
    },
    /// Write the whole shop as one document: every record with its history, every job with its journal.
    Export {
        /// Where to, or - for standard output.
        file: PathBuf,
        /// Folder of the data file.
        #[arg(long, default_value = "data")]
        data: PathBuf,
    },
    /// Take such a document in, into a folder that has no data yet.
    Import {
        /// The document.
        file: PathBuf,
        /// Folder of the data file; made when it is not there.
        #[arg(long, default_value = "data")]
        data: PathBuf,
    },
    /// Print the computed state and plan of a job document as JSON.
    Plan {
        /// The document, or - for standard input.
        file: PathBuf,
    },
    /// Print the notes of a recording as JSON: pitch, inharmonicity, string and kind, each with its width.
    Listen {
        /// A WAV file, or - for standard input.
        file: PathBuf,
        /// The open strings, the highest first; of none only the pitches are told.
        #[arg(long, default_value = "E4 B3 G3 D3 A2 E2")]
        strings: String,
        /// What A4 is tuned to, Hz.
        #[arg(long, default_value_t = 440.0)]
        reference: f64,
    },
    /// Print a JSON Schema of the documents read and written.
    Schema {
        /// Of which document.
        #[arg(value_enum)]
        of: SchemaOf,
    },
}

#[derive(Subcommand)]
enum AccountChange {
    /// Add one; the password is asked for, or read as a line of standard input.
    Add {
        /// What stands beside everything that is told.
        name: String,
        /// technician does everything; counter takes in, looks and hands over; viewer looks.
        #[arg(long, default_value = "technician")]
        role: String,
    },
    /// Remove one, and sign it out everywhere.
    Remove {
        /// Whose.
        name: String,
    },
    /// Give one another password, and sign it out everywhere.
    Reset {
        /// Whose.
        name: String,
    },
    /// Show them.
    List,
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
        Command::Serve {
            data,
            listen,
            name,
            certificate,
            key,
            sign_in,
        } => actix_web::rt::System::new().block_on(async {
            serve(Settings {
                data,
                listen,
                asks: sign_in,
                names: name,
                certificate: certificate.zip(key),
                greets: false,
            })
            .await?;
            Ok(ExitCode::SUCCESS)
        }),
        Command::Account { change, data } => {
            actix_web::rt::System::new().block_on(account(&data, change))
        }
        Command::Backup { file, data } => {
            actix_web::rt::System::new().block_on(copied(&data, &file))
        }
        Command::Restore { file, data } => {
            actix_web::rt::System::new().block_on(restored(&data, &file))
        }
        Command::Export { file, data } => {
            actix_web::rt::System::new().block_on(exported(&data, &file))
        }
        Command::Import { file, data } => {
            actix_web::rt::System::new().block_on(imported(&data, &file))
        }
        Command::Verify { data, file } => {
            let file = file.unwrap_or_else(|| backup::file_of(&data));
            actix_web::rt::System::new().block_on(verified(&file))
        }
        Command::Demo { listen } => actix_web::rt::System::new().block_on(async {
            // Nobody can know its name before, nor read what is in it.
            let beside = tempfile::Builder::new()
                .prefix("gradimen-demo-")
                .tempdir()?;
            let folder = beside.path().to_owned();
            demo::fill(&folder).await?;
            let result = serve(Settings {
                data: folder.clone(),
                listen,
                asks: false,
                names: Vec::new(),
                certificate: None,
                greets: true,
            })
            .await;
            drop(beside);
            result?;
            Ok(ExitCode::SUCCESS)
        }),
        Command::Plan { file } => Ok(plan(&file)),
        Command::Listen {
            file,
            strings,
            reference,
        } => listen(&file, &strings, reference),
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

/// What is heard in a recording.
fn listen(file: &Path, strings: &str, reference: f64) -> anyhow::Result<ExitCode> {
    let concert = ConcertPitch::new(Frequency::from_hertz(reference))?;
    let open = strings
        .split_whitespace()
        .map(|name| {
            let note: Note = name
                .parse()
                .with_context(|| format!("--strings: read \"{name}\""))?;
            Ok(note.frequency(concert).hertz())
        })
        .collect::<anyhow::Result<Vec<f64>>>()?;
    let sound = if file == Path::new("-") {
        Sound::from_wav(std::io::stdin().lock())
    } else {
        let opened = std::fs::File::open(file);
        let opened = opened.with_context(|| format!("cannot read {}", file.display()))?;
        Sound::from_wav(std::io::BufReader::new(opened))
    };
    match sound {
        Ok(sound) => {
            let report = gradimen_ear::Report::of(&sound, &Ear::new(&open, &[12]));
            println!("{}", serde_json::to_string_pretty(&report)?);
            Ok(ExitCode::SUCCESS)
        }
        Err(error) => {
            eprintln!("gradimen: {}: {error}", file.display());
            Ok(ExitCode::from(BAD_DOCUMENT))
        }
    }
}

/// A password, without showing it where somebody types it.
fn password() -> anyhow::Result<String> {
    if std::io::stdin().is_terminal() {
        let typed = rpassword::prompt_password("Password: ")?;
        let again = rpassword::prompt_password("Once more: ")?;
        anyhow::ensure!(
            typed == again,
            "the two are not the same; nothing was changed"
        );
        return Ok(typed);
    }
    let mut line = String::new();
    std::io::stdin().read_line(&mut line)?;
    Ok(line.trim_end_matches(['\r', '\n']).to_owned())
}

async fn account(data: &Path, change: AccountChange) -> anyhow::Result<ExitCode> {
    let mut file = accounts::beside(data).await?;
    match change {
        AccountChange::Add { name, role } => {
            let names: Vec<&str> = Role::all().iter().map(|role| role.key()).collect();
            let role = role.parse::<Role>().ok();
            let role =
                role.with_context(|| format!("expected as role one of {}", names.join(", ")))?;
            accounts::add(&mut file, &name, role, &password()?, Timestamp::now()).await?;
            println!("{name} may sign in as {}", role.key());
        }
        AccountChange::Remove { name } => {
            accounts::remove(&mut file, &name).await?;
            println!("{name} is removed and signed out everywhere");
        }
        AccountChange::Reset { name } => {
            accounts::reset(&mut file, &name, &password()?).await?;
            println!("{name} has another password and is signed out everywhere");
        }
        AccountChange::List => {
            for account in accounts::all(&mut file).await? {
                println!("{}  {}", account.name, account.role.key());
            }
        }
    }
    Ok(ExitCode::SUCCESS)
}

async fn copied(data: &Path, to: &Path) -> anyhow::Result<ExitCode> {
    let from = backup::file_of(data);
    anyhow::ensure!(from.exists(), "{} is not there", from.display());
    let contents = backup::copy(&from, to).await?;
    println!("{}: {}", to.display(), contents);
    Ok(ExitCode::SUCCESS)
}

async fn restored(data: &Path, from: &Path) -> anyhow::Result<ExitCode> {
    anyhow::ensure!(from.exists(), "{} is not there", from.display());
    std::fs::create_dir_all(data)?;
    let contents = backup::put_next(data, from).await?;
    println!("{}: {}", from.display(), contents);
    match Store::open(data).await {
        Ok(store) => {
            store.close().await?;
            println!(
                "It is in its place; what was there is set aside beside it. Accounts are those of the copy, and everybody is signed out."
            );
        }
        Err(StoreError::InUse(_)) => {
            println!("The program is running: it takes its place when that is started again.");
        }
        Err(other) => return Err(other.into()),
    }
    Ok(ExitCode::SUCCESS)
}

async fn verified(file: &Path) -> anyhow::Result<ExitCode> {
    anyhow::ensure!(file.exists(), "{} is not there", file.display());
    let verdict = verify(file).await?;
    println!("{}: {}", file.display(), verdict.contents);
    for problem in &verdict.problems {
        println!("{problem}");
    }
    if verdict.problems.is_empty() {
        println!("sound: every entry is what was written, and every job can be worked out");
        return Ok(ExitCode::SUCCESS);
    }
    Ok(ExitCode::FAILURE)
}

async fn exported(data: &Path, to: &Path) -> anyhow::Result<ExitCode> {
    let file = backup::file_of(data);
    anyhow::ensure!(file.exists(), "{} is not there", file.display());
    let store = Store::open(data).await?;
    let (text, left) = store.whole().await?;
    store.close().await?;
    if to.as_os_str() == "-" {
        print!("{text}");
    } else {
        std::fs::write(to, text).with_context(|| format!("{} cannot be written", to.display()))?;
    }
    for job in &left {
        eprintln!("job {job} cannot be read and was left out; its entries go out as they stand");
    }
    Ok(if left.is_empty() {
        ExitCode::SUCCESS
    } else {
        ExitCode::FAILURE
    })
}

async fn imported(data: &Path, from: &Path) -> anyhow::Result<ExitCode> {
    let text = std::fs::read_to_string(from).context("cannot be read as text")?;
    let store = Store::open(data).await?;
    let jobs = store.take_in(&text).await;
    store.close().await?;
    println!("{jobs} jobs taken in", jobs = jobs?);
    Ok(ExitCode::SUCCESS)
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
