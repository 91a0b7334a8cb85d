//! `jovrik machine`

use std::collections::BTreeSet;

use jovrik_core::check::commands;
use jovrik_toml::{SpannedValue, TomlValue, bare};

use crate::context::Context;
use crate::exit::{CommandError, Exit};

/// Print the facts of this computer as TOML, for the machines/ of a rice
///
/// Facts are what checks, looks and overlays ask: monitors, cores, memory, batteries, networks, keyboard layouts, fonts and
/// programs. Monitors are those of $DISPLAY, else what the kernel says.
#[derive(Debug, Default, clap::Args)]
pub struct Arguments {
    /// All programs on PATH; else those that the rice names, where there is one
    #[arg(long)]
    pub all: bool,
    /// JSON: the same facts, as one object
    #[arg(long)]
    pub json: bool,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    // This computer, also where the facts of another were asked for.
    let mut facts = context.this_computer().all_facts();
    let named = if arguments.all { None } else { named(context) };
    if let Some(named) = &named {
        for (_, node) in facts.iter_mut().filter(|(name, _)| name == "programs") {
            if let TomlValue::Array(items) = &mut node.value {
                items.retain(|item| item.text().is_some_and(|name| named.contains(name)));
            }
        }
    }
    let width = context.width;
    let out = &mut context.out;
    if arguments.json {
        let value = facts.into_iter().filter_map(|(name, node)| Some((name, node.to_json()?)));
        writeln!(out, "{}", serde_json::Value::Object(value.collect()))?;
        return Ok(Exit::Done);
    }
    writeln!(out, "# What this computer is.")?;
    writeln!(out, "# Kept as machines/NAME.toml, a rice can meet it anywhere.")?;
    if named.is_some() {
        writeln!(out, "# Of its programs, those that the rice names;")?;
        writeln!(out, "# jovrik machine --all lists all of them.")?;
    }
    write!(out, "{}", toml_of(&facts, width))?;
    Ok(Exit::Done)
}

/// The programs that the rice names, or says that it needs; nothing without a rice.
fn named(context: &Context) -> Option<BTreeSet<String>> {
    let checked = context.read().ok()?;
    let used = commands(&checked.rice).into_iter().filter_map(|one| one.argv.first().cloned());
    let overlaid = checked.elsewhere.iter().flat_map(|(_, rice)| commands(rice)).filter_map(|one| one.argv.first().cloned());
    Some(used.chain(overlaid).chain(checked.manifest.needs.programs.iter().cloned()).collect())
}

/// Facts as a file of TOML, long lists on several lines of at most `width` columns.
fn toml_of(facts: &[(String, SpannedValue)], width: usize) -> String {
    let mut text = String::new();
    for (name, node) in facts {
        let line = format!("{name} = {}", node.to_toml());
        match &node.value {
            TomlValue::Table(entries) => {
                text.push_str(&format!("\n[{name}]\n"));
                entries.iter().for_each(|(name, node)| text.push_str(&format!("{} = {}\n", bare(name), node.to_toml())));
            }
            TomlValue::Array(items) if line.len() > width => {
                let mut column = width;
                text.push_str(&format!("{name} = ["));
                for item in items.iter().map(SpannedValue::to_toml) {
                    let fits = column + item.len() + 2 <= width;
                    text.push_str(if fits { " " } else { "\n  " });
                    column = if fits { column + item.len() + 2 } else { item.len() + 3 };
                    text.push_str(&format!("{item},"));
                }
                text.push_str("\n]\n");
            }
            _ => text.push_str(&format!("{line}\n")),
        }
    }
    text
}
