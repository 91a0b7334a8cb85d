//! `jovrik machine`

use crate::context::Context;
use crate::exit::{Exit, Failure};
use crate::report::wrap;

/// Print the facts of this computer as TOML, for the machines/ of a rice
///
/// Facts are what checks, looks and overlays ask: monitors, cores, memory, batteries, networks, keyboard layouts, fonts and
/// programs. Monitors are those of $DISPLAY, else what the kernel says.
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {
    /// JSON: the same facts, as one object
    #[arg(long)]
    pub json: bool,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, Failure> {
    // This computer, also where the facts of another were asked for.
    let facts = context.this_computer().all_facts();
    let out = &mut context.out;
    if arguments.json {
        let text: String = toml_of(&facts, 0);
        let mut problems = Vec::new();
        let source = jovrik_core::load::Source::new("machine", text);
        let table = jovrik_core::load::parse(jovrik_core::load::FileId(0), &source, &mut problems);
        let value: serde_json::Map<String, serde_json::Value> =
            table.into_iter().filter_map(|(name, node)| Some((name, node.to_json()?))).collect();
        writeln!(out, "{}", serde_json::Value::Object(value))?;
        return Ok(Exit::Done);
    }
    writeln!(out, "# What this computer is; kept as machines/NAME.toml, a rice can meet it anywhere.")?;
    write!(out, "{}", toml_of(&facts, context.width.max(80)))?;
    Ok(Exit::Done)
}

/// Facts as TOML, long lists on several lines of at most `width` columns; 0: each on one line.
fn toml_of(facts: &[(String, String)], width: usize) -> String {
    let mut text = String::new();
    let mut table = "";
    for (name, value) in facts {
        let (within, own) = name.split_once('.').unwrap_or(("", name));
        if within != table {
            text.push_str(&format!("\n[{within}]\n"));
            table = within;
        }
        let line = format!("{own} = {value}");
        match value.strip_prefix('[').and_then(|rest| rest.strip_suffix(']')) {
            Some(items) if width > 0 && line.len() > width => {
                text.push_str(&format!("{own} = [\n"));
                // A space in a name is no place to break.
                for line in
                    wrap(&items.replace("\", \"", "\",\u{0} \"").replace(' ', "\u{1}").replace("\u{0}\u{1}", " "), width - 2)
                {
                    text.push_str(&format!("  {}\n", line.replace('\u{1}', " ")));
                }
                text.push_str("]\n");
            }
            _ => text.push_str(&format!("{line}\n")),
        }
    }
    text
}
