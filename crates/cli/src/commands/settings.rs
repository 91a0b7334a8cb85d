//! `jovrik settings`

use jovrik_core::load::Tree;
use jovrik_core::problem::{count, in_words};
use jovrik_core::rice::Rice;
use jovrik_core::rice::catalogue::{Allowed, Field, Shape, each, steps};

use crate::context::Context;
use crate::exit::{Exit, Failure};
use crate::report::{Meaning, columns};

/// Find a setting by words of its name or help
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// Words that its path or help must hold
    pub words: Vec<String>,
}

fn allowed(field: &Field) -> String {
    let Shape::One(kind) = field.shape else { return String::new() };
    let unit = if kind.unit.is_empty() { String::new() } else { format!(" {}", kind.unit) };
    match kind.allowed {
        Allowed::Range(from, to) => format!("{from} to {to}{unit}"),
        Allowed::OneOf(words) if kind.name == "list" => format!("list of {}", in_words(words)),
        Allowed::OneOf(words) => words.join(" | "),
        Allowed::Any if kind.name == "list" => format!("list of {}s", kind.unit),
        Allowed::Any => kind.name.to_owned(),
    }
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, Failure> {
    // Outside of any rice the defaults are shown.
    let checked = context.checked().ok();
    let words: Vec<String> = arguments.words.iter().map(|word| word.to_lowercase()).collect();
    let mut all = 0;
    let mut rows: Vec<(String, Vec<String>)> = Vec::new();
    each(Rice::CATALOGUE, &mut |path, field| {
        all += 1;
        let text = format!("{path} {}", field.help).to_lowercase();
        if !words.iter().all(|word| text.contains(word.as_str())) {
            return;
        }
        let set = checked
            .as_ref()
            .and_then(|checked| checked.tree.get(&steps(path)))
            .and_then(Tree::leaf)
            .map(|leaf| leaf.node.to_toml());
        let value = set.or_else(|| field.default.map(str::to_owned)).unwrap_or_default();
        let short = |text: String, most: usize| {
            if text.chars().count() > most { format!("{}…", text.chars().take(most - 1).collect::<String>()) } else { text }
        };
        let part = path.split('.').next().unwrap_or_default().to_owned();
        rows.push((part, vec![path.to_owned(), short(value, 18), short(allowed(field), 26), field.help.trim().to_owned()]));
    });
    let out = &mut context.out;
    let table: Vec<Vec<String>> = rows.iter().map(|(_, row)| row.clone()).collect();
    let mut part = "";
    for ((own, _), line) in rows.iter().zip(columns(&table, "  ", context.width)) {
        if own != part {
            let help = Rice::CATALOGUE.field(own).map_or("", |field| field.help.trim());
            let gap = if part.is_empty() { "" } else { "\n" };
            writeln!(out, "{gap}{}  {}", Meaning::Heading.paint(own), Meaning::Second.paint(help))?;
            part = own;
        }
        writeln!(out, "{line}")?;
    }
    writeln!(out, "\n{} of {}; NAME stands for a name of yours", rows.len(), count(all, "setting"))?;
    Ok(Exit::Done)
}
