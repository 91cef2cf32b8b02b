//! `heliant-press`: an order on standard input, the PDF on standard output, the phases and what
//! went wrong on standard error. Sets its own limits before it reads a byte.

use std::io::{ErrorKind, Read, Write};
use std::process::ExitCode;

use clap::Parser;
use rlimit::{Resource, setrlimit};

#[derive(Parser)]
#[command(name = "heliant-press", version)]
struct Arguments {
    /// Memory it may take, MB of address space.
    #[arg(long, default_value_t = 1500)]
    memory_mb: u64,
    /// Processor time it may take, s.
    #[arg(long, default_value_t = 300)]
    cpu_s: u64,
}

fn main() -> ExitCode {
    match run(&Arguments::parse()) {
        Ok(()) => ExitCode::SUCCESS,
        Err(message) => {
            eprintln!("error: {message}");
            ExitCode::FAILURE
        }
    }
}

fn run(limits: &Arguments) -> Result<(), String> {
    for (what, most) in
        [(Resource::AS, limits.memory_mb.saturating_mul(1 << 20)), (Resource::CPU, limits.cpu_s)]
    {
        setrlimit(what, most, most).map_err(|e| format!("limits: {e}"))?;
    }
    let mut text = String::new();
    std::io::stdin().read_to_string(&mut text).map_err(|e| match e.kind() {
        ErrorKind::OutOfMemory => {
            let most = limits.memory_mb;
            format!("it needs more than the {most} MB it may take; print the stages of interest")
        }
        _ => format!("the order: {e}"),
    })?;
    let order = serde_json::from_str(&text).map_err(|e| format!("the order: {e}"))?;
    drop(text);
    let pdf = heliant_press::set(order, |phase| eprintln!("{}", phase.word()))?;
    let mut out = std::io::stdout().lock();
    out.write_all(&pdf).and_then(|()| out.flush()).map_err(|e| format!("the PDF: {e}"))
}
