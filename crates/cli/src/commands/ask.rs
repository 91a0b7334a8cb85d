//! `jovrik ask`

use jovrik_live::{VERSION, follow, request, socket_path};
use serde_json::Value;

use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, columns};

/// Ask the running desktop what it knows
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// What is asked
    #[arg(value_parser = ["windows", "workspaces", "monitors", "bars", "notices", "health"], required_unless_present = "follow")]
    pub what: Option<String>,
    /// Say what happens from now on, as JSON Lines
    #[arg(long, conflicts_with = "what")]
    pub follow: bool,
    /// The answer as one JSON object
    #[arg(long)]
    pub json: bool,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let socket = socket_path(&context.home.runtime, &super::live::display()?);
    let out = &mut context.out;
    let Some(what) = arguments.what.filter(|_| !arguments.follow) else {
        // Whoever reads no more is no error.
        follow(&socket, |event| writeln!(out, "{event}").and_then(|()| out.flush()).is_ok())?;
        return Ok(Exit::Done);
    };
    let answer = request(&socket, &serde_json::json!({ "ask": what }))?;
    if arguments.json {
        writeln!(out, "{}", serde_json::json!({ "version": VERSION, (what): answer }))?;
        return Ok(Exit::Done);
    }
    match &answer {
        Value::Array(rows) => {
            for line in columns(&table(rows), "  ", context.width) {
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

/// What tells windows apart only for those who write rules: in the JSON, and not in the table.
const FOR_RULES: [&str; 3] = ["instance", "role", "transient"];

/// What is mostly the same for all.
const MOSTLY_ALIKE_KEYS: [&str; 2] = ["monitor", "kind"];

/// Rows below their headings; what is true of one stands in a column of its own, and columns without anything are left out.
fn table(rows: &[Value]) -> Vec<Vec<String>> {
    let fields = |row: &Value| row.as_object().cloned().unwrap_or_default();
    let Some(first) = rows.first().map(fields).filter(|first| !first.is_empty()) else {
        return rows.iter().map(|row| vec![plain(row)]).collect();
    };
    let filled = |name: &String| rows.iter().any(|row| !matches!(plain(&row[name.as_str()]).as_str(), "" | "none"));
    // What is the same for all of them says nothing of any.
    let alike =
        |name: &String| MOSTLY_ALIKE_KEYS.contains(&name.as_str()) && rows.iter().all(|row| row[name.as_str()] == first[name]);
    let told = |name: &String| !FOR_RULES.contains(&name.as_str()) && filled(name) && !alike(name);
    let names = first.iter().filter(|(name, value)| !value.is_boolean() && told(name));
    let names: Vec<&String> = names.map(|(name, _)| name).collect();
    let states = |row: &Value| {
        let all =
            fields(row).into_iter().filter(|(name, value)| *value == Value::Bool(true) && !FOR_RULES.contains(&name.as_str()));
        all.map(|(name, _)| name).collect::<Vec<_>>().join(", ")
    };
    let stated = rows.iter().any(|row| !states(row).is_empty());
    let heading = names.iter().map(|name| name.as_str()).chain(stated.then_some("is"));
    let mut table = vec![heading.map(|name| Meaning::Second.paint(name)).collect()];
    for row in rows {
        let cell = |name: &&String| match plain(&row[name.as_str()]).as_str() {
            "none" => String::new(),
            text => text.to_owned(),
        };
        let cells = names.iter().map(cell).chain(stated.then(|| Meaning::Type.paint(&states(row))));
        table.push(cells.collect());
    }
    table
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
