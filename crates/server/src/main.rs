//! Starts the server, migrates the database, writes the description of the API.

use std::net::{IpAddr, Ipv4Addr, TcpListener};
use std::path::PathBuf;
use std::process::ExitCode;

use clap::{Parser, Subcommand};
use heliant_server::compute::ComputeLimits;
use heliant_server::front::Front;
use heliant_server::press::{self, PressSettings};
use heliant_server::store::accounts::{NewAccount, Role};
use heliant_server::{Settings, demo, hashing, openapi_text, store};
use tracing_subscriber::EnvFilter;

#[derive(Parser)]
#[command(name = "heliant-server", version)]
struct Arguments {
    #[command(subcommand)]
    command: Command,
}

#[derive(Subcommand)]
enum Command {
    /// Migrate and serve.
    Serve {
        /// Address of the database.
        #[arg(long, env = "DATABASE_URL", hide_env_values = true)]
        database_url: String,
        /// Address of the same database for the role that owns the tables and migrates them; the
        /// server itself then needs no more than to read and write rows.
        #[arg(long, env = "HELIANT_OWNER_URL", hide_env_values = true)]
        owner_url: Option<String>,
        /// First port to try; the next free one is taken.
        #[arg(long, default_value_t = 8400)]
        port: u16,
        /// Address to listen on.
        #[arg(long, default_value_t = IpAddr::V4(Ipv4Addr::LOCALHOST))]
        address: IpAddr,
        /// Folder with the front end as built.
        #[arg(long, default_value = "web/dist")]
        web: PathBuf,
        /// Load the demo data into an empty database and say its sign-ins.
        #[arg(long)]
        demo: bool,
        /// Send cookies over https only.
        #[arg(long)]
        secure_cookies: bool,
        /// Connections to the database.
        #[arg(long, default_value_t = 8)]
        pool_size: u32,
        /// Header in which a proxy in front passes the caller's address, e.g. X-Real-IP.
        #[arg(long)]
        ip_header: Option<String>,
        /// The program that sets documents; without it the one beside this.
        #[arg(long)]
        press: Option<PathBuf>,
        /// File that says how far that program is while it is being built.
        #[arg(long)]
        press_building: Option<PathBuf>,
    },
    /// Make the first owner; the password comes from HELIANT_PASSWORD.
    AddOwner {
        /// Address of the database.
        #[arg(long, env = "DATABASE_URL", hide_env_values = true)]
        database_url: String,
        /// Name as it stands on records.
        #[arg(long)]
        name: String,
        /// Name to sign in with.
        #[arg(long)]
        sign_in: String,
        /// Password.
        #[arg(long, env = "HELIANT_PASSWORD", hide_env_values = true)]
        password: String,
    },
    /// Print the description of the API.
    Openapi,
    /// Print the catalogue of figures and units the front end ships with.
    Catalogue,
}

/// Gives back to the system what a large question took: the usual one keeps it in each thread's
/// arena.
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

/// Files and connections that may be open at once, where the system allows as many.
const MOST_FILES: u64 = 65_536;

fn main() -> ExitCode {
    match run(Arguments::parse().command) {
        Ok(()) => ExitCode::SUCCESS,
        Err(message) => {
            eprintln!("{message}");
            ExitCode::FAILURE
        }
    }
}

fn run(command: Command) -> Result<(), String> {
    match command {
        Command::Openapi => {
            print!("{}", openapi_text());
            Ok(())
        }
        Command::Catalogue => {
            print!("{}", heliant_core::catalogue::catalogue_text());
            Ok(())
        }
        Command::AddOwner { database_url, name, sign_in, password } => {
            use diesel::Connection;
            store::migrate(&database_url)?;
            let mut db =
                diesel::PgConnection::establish(&database_url).map_err(|e| e.to_string())?;
            let password_hash = hashing::hash(&password).map_err(|e| format!("{e:?}"))?;
            let new = NewAccount { name, sign_in, role: Role::Owner, password_hash };
            match store::accounts::create(&mut db, &new).map_err(|e| format!("{e:?}"))? {
                Some(account) => {
                    println!("{} can sign in as {}", account.name, account.sign_in);
                    Ok(())
                }
                None => Err(format!("the name {} is taken", new.sign_in)),
            }
        }
        Command::Serve {
            database_url,
            owner_url,
            port,
            address,
            web,
            demo: with_demo,
            secure_cookies,
            pool_size,
            ip_header,
            press,
            press_building,
        } => {
            let filter = EnvFilter::try_from_env("HELIANT_LOG")
                .unwrap_or_else(|_| EnvFilter::new("info,rocket=off,_=off"));
            tracing_subscriber::fmt()
                .json()
                .with_env_filter(filter)
                .with_writer(std::io::stderr)
                .init();
            // A flood of half-open connections is to meet the system's limit, not the usual 1,024.
            let files = rlimit::increase_nofile_limit(MOST_FILES).map_err(|e| e.to_string())?;
            tracing::info!(files, "open files and connections");
            let owner = owner_url.as_deref().unwrap_or(&database_url);
            store::migrate(owner)?;
            store::let_in(owner, &database_url)?;
            if with_demo && demo::load(&database_url)? {
                println!("Demo data loaded.");
            }
            let front = Front::new(ip_header.as_deref())?;
            let listener = free_port(address, port)?;
            let port = listener.local_addr().map_err(|e| e.to_string())?.port();
            tracing::info!(%address, port, "serving");
            println!("Heliant is at http://{address}:{port}");
            if with_demo {
                println!("Sign in as (password {} for each):", demo::PASSWORD);
                for (name, sign_in, role) in demo::PEOPLE {
                    println!(
                        "  {sign_in:10} {name}, {}",
                        serde_json::to_string(&role).unwrap_or_default().trim_matches('"')
                    );
                }
                println!("Ctrl-C ends it; the data stays.");
            }
            let own = || press::beside(&std::env::current_exe().unwrap_or_default());
            let press = PressSettings::new(press.unwrap_or_else(own), press_building);
            let settings = Settings {
                database_url,
                web,
                secure_cookies,
                pool_size,
                ip_header: None,
                press,
                computing: ComputeLimits::default(),
            };
            rocket::tokio::runtime::Runtime::new()
                .map_err(|e| e.to_string())?
                .block_on(front.launch(settings, listener))
                .map_err(|e| format!("the server did not start: {e}"))
        }
    }
}

/// Listens on the first port from `first` on that nobody listens on.
fn free_port(address: IpAddr, first: u16) -> Result<TcpListener, String> {
    (first..first.saturating_add(50))
        .find_map(|port| TcpListener::bind((address, port)).ok())
        .ok_or_else(|| format!("no free port from {first} to {}", first.saturating_add(49)))
}
