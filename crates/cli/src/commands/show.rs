//! `jovrik show`

use jovrik_schema::catalogue::{CatalogueMatch, ReloadPolicy, SettingShape, SettingTable};
use jovrik_schema::{Branch, Tree};
use jovrik_toml::bare;

use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, remark};

/// Show the value of a setting, or all settings of a table
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The setting's path, such as space.edge
    #[arg(add = crate::complete::setting_or_table())]
    pub path: String,
    /// JSON: path, value (as TOML), set (whether the rice sets it), idle (whether nothing acts on it yet)
    #[arg(long)]
    pub json: bool,
}

/// A setting with its value as TOML.
struct Row {
    path: String,
    value: String,
    set: bool,
    /// Whether nothing acts on it yet.
    idle: bool,
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let checked = context.read()?;
    let arguments = Arguments { path: context.meant(&arguments.path), ..arguments };
    let (steps, found) = jovrik_home::edit::setting_steps(&arguments.path, &checked)?;
    let tree = checked.tree.get(&steps);
    let mut rows = Vec::new();
    let default = match found {
        CatalogueMatch::Field(field) => field.default,
        CatalogueMatch::Named(_) => None,
    };
    let idle = matches!(found, CatalogueMatch::Field(field) if field.takes == ReloadPolicy::Unimplemented);
    gather(&arguments.path, found.shape(), (default, idle), tree, &mut rows);
    let out = &mut context.out;
    if arguments.json {
        for row in &rows {
            writeln!(out, "{}", serde_json::json!({ "path": row.path, "value": row.value, "set": row.set, "idle": row.idle }))?;
        }
        return Ok(Exit::Done);
    }
    match rows.as_slice() {
        [] => return Err(jovrik_home::Error::NotSet(arguments.path).into()),
        [only] if only.path == arguments.path => {
            writeln!(out, "{}", only.value)?;
            if only.idle {
                remark(&format!("{} is checked and kept, and nothing acts on it yet", only.path));
            }
        }
        many => {
            for row in many {
                let idle = if row.idle { "  # nothing acts on it yet" } else { "" };
                let line = format!("{} = {}{idle}", row.path, row.value);
                writeln!(out, "{}", if row.set { line } else { Meaning::Second.paint(&line) })?;
            }
        }
    }
    Ok(Exit::Done)
}

fn gather(
    path: &str,
    shape: SettingShape,
    (default, idle): (Option<&'static str>, bool),
    tree: Option<&Tree>,
    rows: &mut Vec<Row>,
) {
    match shape {
        SettingShape::One(_) => {
            let value = tree.and_then(Tree::leaf).map(|leaf| leaf.node.to_toml());
            let set = value.is_some();
            if let Some(value) = value.or_else(|| default.map(str::to_owned)) {
                rows.push(Row { path: path.to_owned(), value, set, idle });
            }
        }
        SettingShape::Named(_, inner) => {
            for (name, tree) in tree.and_then(Tree::branch).into_iter().flat_map(|branch| &branch.entries) {
                gather(&format!("{path}.{}", bare(name)), *inner, (None, false), Some(tree), rows);
            }
        }
        SettingShape::Table(table) => fields(path, table, tree.and_then(Tree::branch), rows),
    }
}

fn fields(path: &str, table: &'static SettingTable, branch: Option<&Branch>, rows: &mut Vec<Row>) {
    for field in table.fields {
        let tree = branch.and_then(|branch| branch.entries.get(field.name));
        let about = (field.default, field.takes == ReloadPolicy::Unimplemented);
        gather(&format!("{path}.{}", field.name), field.shape, about, tree, rows);
    }
    if let Some((_, shape)) = table.rest {
        for (name, tree) in branch.into_iter().flat_map(|branch| &branch.entries).filter(|(name, _)| table.field(name).is_none())
        {
            gather(&format!("{path}.{}", bare(name)), *shape, (None, false), Some(tree), rows);
        }
    }
}
