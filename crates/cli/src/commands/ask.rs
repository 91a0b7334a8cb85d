//! `jovrik ask`

use jovrik_live::{request, socket_path};
use serde_json::Value;

use crate::context::Context;
use crate::exit::{Exit, Failure};
use crate::report::{Meaning, columns};

/// Ask the running desktop what it knows
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// What is asked
    #[arg(value_parser = ["windows", "workspaces", "monitors", "bars", "health"])]
    pub what: String,
    /// The answer as one JSON object
    #[arg(long)]
    pub json: bool,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, Failure> {
    let socket = socket_path(&context.home.runtime, &super::live::display()?);
    let answer = request(&socket, &serde_json::json!({ "ask": arguments.what }))?;
    let out = &mut context.out;
    if arguments.json {
        writeln!(out, "{answer}")?;
        return Ok(Exit::Done);
    }
    match &answer {
        Value::Array(rows) => {
            let rows: Vec<Vec<String>> = rows.iter().map(row).collect();
            for line in columns(&rows, "  ", context.width) {
                writeln!(out, "{line}")?;
            }
            if rows.is_empty() {
                writeln!(out, "  none")?;
            }
        }
        Value::Object(fields) => {
            let rows: Vec<Vec<String>> =
                fields.iter().map(|(name, value)| vec![Meaning::Second.paint(&name.replace('-', " ")), plain(value)]).collect();
            for line in columns(&rows, "  ", context.width) {
                writeln!(out, "{line}")?;
            }
        }
        other => writeln!(out, "{}", plain(other))?,
    }
    Ok(Exit::Done)
}

fn row(value: &Value) -> Vec<String> {
    let Value::Object(fields) = value else { return vec![plain(value)] };
    fields
        .iter()
        .map(|(name, value)| match value {
            Value::Bool(true) => Meaning::Type.paint(name),
            Value::Bool(false) => String::new(),
            value => plain(value),
        })
        .collect()
}

fn plain(value: &Value) -> String {
    match value {
        Value::Null => "none".to_owned(),
        Value::String(text) => text.chars().filter(|c| !c.is_control()).collect(),
        Value::Array(items) if items.is_empty() => "none".to_owned(),
        Value::Object(fields) if fields.is_empty() => "none".to_owned(),
        Value::Array(items) => items.iter().map(plain).collect::<Vec<_>>().join(", "),
        Value::Object(fields) => fields
            .iter()
            .map(|(name, value)| format!("{} {}", name.replace('-', " "), plain(value)))
            .collect::<Vec<_>>()
            .join(", "),
        other => other.to_string(),
    }
}
