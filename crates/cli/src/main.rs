//! The command line: the core without server or database.

use std::fmt::Write as _;
use std::fs;
use std::path::{Path, PathBuf};
use std::process::ExitCode;

use clap::{Parser, Subcommand, ValueEnum};
use heliant_core::cases::{self, Outcome};
use heliant_core::figure::Recording;
use heliant_core::figure::{Check, Value, Verdict};
use heliant_core::job::{self, JobFile, MAX_FILE_BYTES, Problem};
use heliant_core::school::School;
use heliant_core::search::{RouteAsk, RouteError, route};
use heliant_core::sums;
use heliant_core::{Report, evaluate_with};

/// Planner, calculator and logbook for the electrician who wires solar.
#[derive(Parser)]
#[command(name = "heliant", version)]
struct Arguments {
    #[command(subcommand)]
    command: Command,
}

#[derive(Subcommand)]
enum Command {
    /// Print every check of a job file with its working. Exit 0: nothing stops; 1: something does;
    /// 2: the file is wrong.
    Check {
        /// The job file.
        file: PathBuf,
        /// How to print.
        #[arg(long, value_enum, default_value_t = Format::Text)]
        format: Format,
    },
    /// Do a quick sum: inputs as JSON on standard input, the slip as JSON on standard output.
    /// Without a name the sums are listed; with --inputs its inputs. Exit 0: nothing stops; 1:
    /// something does; 2: the inputs are wrong.
    Sum {
        /// The sum.
        name: Option<String>,
        /// School of practice.
        #[arg(long, value_enum, default_value_t = SchoolName::Na)]
        school: SchoolName,
        /// Print the inputs it takes, with samples, and do nothing.
        #[arg(long)]
        inputs: bool,
        /// How to print.
        #[arg(long, value_enum, default_value_t = Format::Json)]
        format: Format,
    },
    /// Print a job file in the current version of the format; what an older one needed goes to
    /// standard error. Exit 2: the file is wrong.
    Migrate {
        /// The job file.
        file: PathBuf,
    },
    /// Route the strings of faces: the question as JSON in a file, the answer as JSON on standard
    /// output. Exit 0: every string is joined; 1: a module cannot be reached; 2: the question is
    /// wrong.
    Route {
        /// The question.
        file: PathBuf,
    },
    /// Print the JSON Schema of the job file.
    Schema,
    /// Run case files. Exit 0: all pass; 1: some differ; 2: a file is wrong.
    Cases {
        /// The folder with the case files.
        dir: PathBuf,
    },
}

#[derive(Clone, Copy, ValueEnum)]
enum SchoolName {
    Na,
    Iec,
}

#[derive(Clone, Copy, ValueEnum)]
enum Format {
    Text,
    Json,
}

fn main() -> ExitCode {
    match Arguments::parse().command {
        Command::Check { file, format } => check(&file, format),
        Command::Sum { name, school, inputs, format } => {
            let school = match school {
                SchoolName::Na => School::Na,
                SchoolName::Iec => School::Iec,
            };
            sum(name.as_deref(), school, inputs, format)
        }
        Command::Migrate { file } => migrate(&file),
        Command::Route { file } => route_file(&file),
        Command::Schema => {
            let schema =
                serde_json::to_string_pretty(job::json_schema()).expect("the schema is JSON");
            print_out(&format!("{schema}\n"));
            ExitCode::SUCCESS
        }
        Command::Cases { dir } => run_cases(&dir),
    }
}

/// Prints, and ends quietly where the reader of a pipe has gone.
fn print_out(text: &str) {
    use std::io::Write as _;
    let _ = std::io::stdout().write_all(text.as_bytes());
}

fn read_text(path: &Path) -> Result<String, String> {
    let size = fs::metadata(path).map_err(|e| format!("{}: {e}", path.display()))?.len();
    if size > MAX_FILE_BYTES as u64 {
        return Err(format!(
            "{}: {size} bytes; a file has {MAX_FILE_BYTES} at most",
            path.display()
        ));
    }
    let bytes = fs::read(path).map_err(|e| format!("{}: {e}", path.display()))?;
    String::from_utf8(bytes).map_err(|e| format!("{}: not UTF-8 text: {e}", path.display()))
}

fn migrate(path: &Path) -> ExitCode {
    let opened = read_text(path).and_then(|text| {
        job::read(&text).map_err(|problems| {
            let line = |p: &Problem| format!("{}: {}: {}", path.display(), p.path, p.message);
            problems.iter().map(line).collect::<Vec<_>>().join("\n")
        })
    });
    match opened {
        Ok(opened) => {
            for change in opened.changes {
                eprintln!("{change}");
            }
            print_out(&opened.file.to_text());
            ExitCode::SUCCESS
        }
        Err(wrong) => {
            eprintln!("{wrong}");
            ExitCode::from(2)
        }
    }
}

fn route_file(path: &Path) -> ExitCode {
    let asked = read_text(path).and_then(|text| {
        serde_json::from_str::<RouteAsk>(&text).map_err(|e| format!("{}: {e}", path.display()))
    });
    let ask = match asked {
        Ok(ask) => ask,
        Err(message) => {
            eprintln!("{message}");
            return ExitCode::from(2);
        }
    };
    match route(&ask) {
        Ok(routed) => {
            let text = serde_json::to_string_pretty(&routed).expect("an answer is JSON");
            print_out(&format!("{text}\n"));
            ExitCode::SUCCESS
        }
        Err(RouteError::Lost(problems)) => {
            say(&problems, Format::Text);
            ExitCode::from(1)
        }
        Err(RouteError::Invalid(problems)) => {
            say(&problems, Format::Text);
            ExitCode::from(2)
        }
    }
}

fn sum(name: Option<&str>, school: School, only_inputs: bool, format: Format) -> ExitCode {
    let Some(name) = name else {
        let line = |s: &&sums::Sum| format!("{:16} {}\n", s.name, s.about);
        print_out(&sums::all().iter().filter(|s| s.school == school).map(line).collect::<String>());
        return ExitCode::SUCCESS;
    };
    let Some(found) = sums::find(name, school) else {
        let names: Vec<&str> =
            sums::all().iter().filter(|s| s.school == school).map(|s| s.name).collect();
        eprintln!("no sum `{name}`; there are {}", names.join(", "));
        return ExitCode::from(2);
    };
    if only_inputs {
        let sample = serde_json::to_string_pretty(&sums::sample(found)).expect("samples are JSON");
        print_out(&format!("{sample}\n"));
        return ExitCode::SUCCESS;
    }
    let text = match std::io::read_to_string(std::io::stdin().lock()) {
        Ok(text) => text,
        Err(e) => {
            eprintln!("standard input: {e}");
            return ExitCode::from(2);
        }
    };
    let done = serde_json::from_str(&text)
        .map_err(|e| {
            vec![Problem::new(
                "",
                format!("not a JSON object: {e}"),
                "heliant sum NAME --inputs prints one to begin with",
            )]
        })
        .and_then(|inputs| sums::run(found, &inputs));
    match done {
        Ok(slip) => {
            match format {
                Format::Json => print_out(&format!(
                    "{}\n",
                    serde_json::to_string_pretty(&slip).expect("a slip is JSON")
                )),
                Format::Text => print_out(&slip.text),
            }
            let stops = slip.checks.iter().any(|c| c.verdict == Verdict::Fail && !c.alternative);
            if stops { ExitCode::from(1) } else { ExitCode::SUCCESS }
        }
        Err(problems) => {
            say(&problems, format);
            ExitCode::from(2)
        }
    }
}

/// Problems as they are asked for: JSON to the output, text to the error channel.
fn say(problems: &[Problem], format: Format) {
    match format {
        Format::Json => print_out(&format!("{}\n", serde_json::json!({ "problems": problems }))),
        Format::Text => {
            for p in problems {
                let place = if p.path.is_empty() { "file" } else { &p.path };
                let hint = if p.hint.is_empty() { String::new() } else { format!(" ({})", p.hint) };
                eprintln!("{place}: {}{hint}", p.message);
            }
        }
    }
}

fn check(path: &Path, format: Format) -> ExitCode {
    let opened = match read_text(path) {
        Ok(text) => job::read(&text),
        Err(message) => Err(vec![Problem::new("", message, "")]),
    };
    let opened = match opened {
        Ok(opened) => opened,
        Err(problems) => {
            say(&problems, format);
            return ExitCode::from(2);
        }
    };
    for change in &opened.changes {
        eprintln!("migrated {change}");
    }
    let JobFile { job, library, readings, .. } = &opened.file;
    let report = evaluate_with(job, library, readings, Recording::Everything);
    match format {
        Format::Json => print_out(&format!(
            "{}\n",
            serde_json::to_string_pretty(&report).expect("a report is JSON")
        )),
        Format::Text => print_out(&as_text(&job.name, &report)),
    }
    if report.counts.fail > 0 { ExitCode::from(1) } else { ExitCode::SUCCESS }
}

fn as_text(name: &str, report: &Report) -> String {
    let mut out = format!("{name}\n");
    for check in &report.checks {
        one_check(&mut out, check, report);
    }
    let n = report.counts;
    let _ =
        writeln!(out, "\n{} stop, {} caution, {} open, {} hold", n.fail, n.warn, n.unknown, n.pass);
    out.push_str("The local code, the authority and a licensed person have the last word.\n");
    out
}

fn one_check(out: &mut String, check: &Check, report: &Report) {
    let word = match check.verdict {
        Verdict::Pass => "holds",
        Verdict::Warn => "CAUTION",
        Verdict::Fail if check.alternative => "not met",
        Verdict::Fail => "STOP",
        Verdict::Unknown => "open",
    };
    let _ = writeln!(
        out,
        "\n{word:8} {} · {} ({}) [{}]",
        check.subject, check.title, check.id, check.source
    );
    if let Some(f) = report.judged(check) {
        out.push_str(&cases::working(f));
        let value = match &f.value {
            Some(Value::Number(n)) => {
                format!("{n:.*} {}", f.unit.format().decimals(*n), f.unit.sign())
            }
            Some(Value::Text(t)) => t.clone(),
            Some(Value::Flag(b)) => if *b { "yes" } else { "no" }.to_owned(),
            None => "cannot be had".to_owned(),
        };
        let _ = writeln!(out, "\n    {} = {}", f.id, value.trim_end());
    }
    if let Some(limit) = &check.limit {
        let side = if limit.at_most { "at most" } else { "at least" };
        let d = check.unit.format().decimals(limit.value);
        let margin = check
            .margin
            .map(|m| format!(", room {m:.d$} {}", check.unit.sign()))
            .unwrap_or_default();
        let pct = check.margin_pct.map(|m| format!(" ({m:.2} %)")).unwrap_or_default();
        let _ = writeln!(
            out,
            "    {side} {:.d$} {} ({}){margin}{pct}",
            limit.value,
            check.unit.sign(),
            limit.title
        );
    }
    if !check.missing.is_empty() {
        let _ = writeln!(out, "    missing: {}", check.missing.join(", "));
    }
    if let Some(reason) = &check.reason {
        let _ = writeln!(out, "    {reason}");
    }
    for cure in &check.cures {
        let _ = writeln!(out, "    cure: {}", cure.text);
    }
}

fn run_cases(dir: &Path) -> ExitCode {
    match all_cases(dir) {
        Ok(tally) => {
            for group in &tally.skipped_groups {
                println!("skipped group {group}: not built yet");
            }
            println!("{} passed, {} failed, {} skipped", tally.passed, tally.failed, tally.skipped);
            if tally.failed == 0 { ExitCode::SUCCESS } else { ExitCode::from(1) }
        }
        Err(message) => {
            eprintln!("{message}");
            ExitCode::from(2)
        }
    }
}

#[derive(Default)]
struct Tally {
    passed: u32,
    failed: u32,
    skipped: u32,
    skipped_groups: Vec<String>,
}

fn all_cases(dir: &Path) -> Result<Tally, String> {
    let entries = fs::read_dir(dir).map_err(|e| format!("{}: {e}", dir.display()))?;
    let mut files: Vec<PathBuf> = entries.filter_map(|e| e.ok().map(|e| e.path())).collect();
    files.retain(|p| p.is_file() && p.extension().is_some_and(|e| e == "json"));
    files.sort();
    let mut all = Vec::new();
    let mut ids = std::collections::HashMap::new();
    for path in files {
        let cases =
            cases::parse(&read_text(&path)?).map_err(|e| format!("{}: {e}", path.display()))?;
        for case in cases {
            if let Some(first) = ids.insert(case.id.clone(), path.clone()) {
                return Err(format!(
                    "{}: case `{}` is also in {}",
                    path.display(),
                    case.id,
                    first.display()
                ));
            }
            all.push((path.clone(), case));
        }
    }
    let mut tally = Tally::default();
    for (path, case) in all {
        match cases::run(&case).map_err(|e| format!("{}: {e}", path.display()))? {
            Outcome::Passed => tally.passed += 1,
            Outcome::Failed(differences) => {
                tally.failed += 1;
                for d in differences {
                    println!("{d}");
                }
            }
            Outcome::Skipped => {
                tally.skipped += 1;
                if !tally.skipped_groups.contains(&case.group) {
                    tally.skipped_groups.push(case.group);
                }
            }
        }
    }
    Ok(tally)
}
