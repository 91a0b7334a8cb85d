//! The `jovrik` program.

mod commands;
mod complete;
mod context;
mod examples;
mod exit;
mod log;
mod report;
mod run;
mod typed;

fn main() -> std::process::ExitCode {
    run::run(std::env::args_os())
}
