//! `jovrik keys`

pub mod clash;
pub mod list;
pub mod settle;

use crate::context::Context;
use crate::exit::{Exit, Failure};

/// Who gets a key press, which bindings fight, and the cheapest peace
#[derive(Debug, clap::Args)]
#[command(disable_help_subcommand = true)]
pub struct Arguments {
    #[command(subcommand)]
    pub what: What,
}

/// What is asked of the bindings.
#[derive(Debug, clap::Subcommand)]
pub enum What {
    List(list::Arguments),
    Clash(clash::Arguments),
    Settle(settle::Arguments),
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, Failure> {
    match arguments.what {
        What::List(arguments) => list::run(arguments, context),
        What::Clash(arguments) => clash::run(arguments, context),
        What::Settle(arguments) => settle::run(arguments, context),
    }
}
