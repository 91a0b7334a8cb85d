//! The project's own chores: `cargo xtask test`, `fuzz SECONDS`, `shots [live]`, `reference`, `dist`, `capture FILE`.

mod capture;
mod dist;
mod packages;
mod shots;

use std::process::{Command, ExitCode};

/// The layers that touch nothing outside of them.
const PURE: [&str; 6] = ["text", "toml", "leak-scan", "schema", "values", "core"];

/// What went wrong, in words.
type Failure = Box<dyn std::error::Error>;

fn run(program: &str, arguments: &[&str]) -> Result<(), Failure> {
    let status = Command::new(program).args(arguments).status().map_err(|error| format!("{program}: {error}"))?;
    if status.success() { Ok(()) } else { Err(format!("{program} {} failed", arguments.join(" ")).into()) }
}

fn test() -> Result<(), Failure> {
    packages::install()?;
    // Random tests run the pure layers thousands of times: they are built a little faster here, and everywhere else a little
    // sooner.
    let faster: Vec<String> = PURE.iter().map(|layer| format!("profile.dev.package.jovrik-{layer}.opt-level=1")).collect();
    let faster: Vec<&str> = faster.iter().flat_map(|set| ["--config", set.as_str()]).collect();
    // Cargo builds no programs for the tests of another package: the stand-ins are built here.
    run("cargo", &[&["build", "--package", "jovrik-standin", "--bins", "--quiet"], faster.as_slice()].concat())?;
    run("cargo", &[&["test", "--workspace", "--quiet"], faster.as_slice()].concat())
}

/// Tries inputs of strangers that nobody thought of, each kind for so many seconds, in the build that people run.
fn fuzz(seconds: &str) -> Result<(), Failure> {
    packages::install()?;
    seconds.parse::<u32>().map_err(|_| "cargo xtask fuzz SECONDS")?;
    let arguments = ["test", "--workspace", "--release", "fuzz_", "--", "--nocapture"];
    let mut command = Command::new("cargo");
    command.args(arguments).env("JOVRIK_FUZZ_SECONDS", seconds);
    if !command.status()?.success() {
        return Err("an input ended something: it is shown above".into());
    }
    let arguments = ["test", "--release", "-p", "jovrik", "--test", "cli", "hostile", "--", "--nocapture"];
    let status = Command::new("cargo").args(arguments).env("JOVRIK_HOSTILE_SECONDS", seconds).status()?;
    if status.success() { Ok(()) } else { Err("a client ended the desktop".into()) }
}

/// Writes anew what documents show of the program: the reference, the schema, the reports of broken samples.
fn reference() -> Result<(), Failure> {
    let arguments = ["test", "-p", "jovrik", "--test", "cli", "--quiet", "--", "broken", "documents"];
    let status = Command::new("cargo").args(arguments).env("JOVRIK_REPORTS", "1").status()?;
    if status.success() { Ok(()) } else { Err("what was written does not pass its own tests".into()) }
}

fn chore() -> Result<(), Failure> {
    let arguments: Vec<String> = std::env::args().skip(1).collect();
    match arguments.iter().map(String::as_str).collect::<Vec<_>>().as_slice() {
        ["test"] => test(),
        ["fuzz", seconds] => fuzz(seconds),
        ["reference"] => reference(),
        ["dist"] => dist::make(),
        ["shots"] => packages::install().and_then(|()| shots::take(false)),
        ["shots", "live"] => packages::install().and_then(|()| shots::take(true)),
        ["capture", file] => capture::capture(&std::env::var("DISPLAY")?, std::path::Path::new(file)),
        _ => Err("cargo xtask test | fuzz SECONDS | shots [live] | reference | dist | capture FILE".into()),
    }
}

fn main() -> ExitCode {
    match chore() {
        Ok(()) => ExitCode::SUCCESS,
        Err(failure) => {
            eprintln!("xtask: {failure}");
            ExitCode::FAILURE
        }
    }
}
