//! `jovrik rules try`

use jovrik_core::check::CheckedRice;
use jovrik_core::desk::{RuleMatch, Subject, WindowFacts, WindowId, judge, rules_in_order};
use jovrik_core::rice::WindowKind;
use jovrik_live::{request, socket_path};
use jovrik_schema::Tree;
use jovrik_text::problem::{in_words, nearest};
use serde_json::json;

use super::{asks, sets};
use crate::context::Context;
use crate::exit::{CommandError, Exit};
use crate::report::{Meaning, advice, columns};

/// Say rule by rule what would be set on a window
///
/// The window is described by what is typed, or it is the one that is clicked on the running desktop.
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The app name of the window
    #[arg(long, default_value = "")]
    pub app: String,
    /// Its instance
    #[arg(long, default_value = "")]
    pub instance: String,
    /// Its title
    #[arg(long, default_value = "")]
    pub title: String,
    /// Its role
    #[arg(long, default_value = "")]
    pub role: String,
    /// What it is for: normal, dialog, utility, toolbar, menu, splash or notification
    #[arg(long, default_value = "normal")]
    pub kind: String,
    /// Whether it belongs to another window
    #[arg(long)]
    pub transient: bool,
    /// The workspace it would appear on; the first without this
    #[arg(long)]
    pub workspace: Option<String>,
    /// The monitor it would appear on
    #[arg(long, default_value = "")]
    pub monitor: String,
    /// The window that is clicked next on the running desktop
    #[arg(long, conflicts_with_all = ["app", "instance", "title", "role", "kind", "transient", "workspace", "monitor"])]
    pub pick: bool,
    /// JSON Lines: rule, holds, misses, set, wins
    #[arg(long)]
    pub json: bool,
}

/// A window, and where it would appear.
struct Tried {
    facts: WindowFacts,
    workspace: String,
    monitor: String,
}

fn kind(word: &str) -> Result<WindowKind, CommandError> {
    let all: Vec<&str> = WindowKind::ALL.iter().map(|kind| kind.word()).collect();
    WindowKind::ALL.iter().copied().find(|kind| kind.word() == word).ok_or_else(|| {
        let near = nearest(word, all.iter().copied()).map(|near| format!("; did you mean {near}?")).unwrap_or_default();
        CommandError::Usage(format!("there is no kind of window {word}: it is {}{near}", in_words(&all)))
    })
}

/// The window that a person clicks.
fn picked(context: &mut Context) -> Result<Tried, CommandError> {
    let socket = socket_path(&context.home.runtime, &crate::commands::live::display()?);
    writeln!(context.out, "{}", Meaning::Second.paint("click the window"))?;
    context.out.flush()?;
    let clicked = format!("0x{:x}", jovrik_live::pick(&crate::commands::live::display()?)?);
    let all = request(&socket, &json!({ "ask": "windows" }))?;
    let found = all.as_array().and_then(|all| all.iter().find(|one| one["window"] == clicked.as_str()));
    let window = found.ok_or_else(|| CommandError::Usage("what was clicked is no window of the desk".to_owned()))?;
    let text = |name: &str| window[name].as_str().unwrap_or_default().to_owned();
    let facts = WindowFacts {
        app_id: text("app"),
        instance: text("instance"),
        role: text("role"),
        title: text("title"),
        window_type: kind(&text("kind"))?,
        transient_for: window["transient"].as_bool().unwrap_or_default().then_some(WindowId(1)),
        ..WindowFacts::default()
    };
    Ok(Tried { facts, workspace: text("workspace"), monitor: text("monitor") })
}

fn described(arguments: &Arguments, checked: &CheckedRice) -> Result<Tried, CommandError> {
    let names = checked.rice.workspace_names();
    let workspace = match &arguments.workspace {
        None => names.first().copied().unwrap_or_default().to_owned(),
        Some(name) if names.contains(&name.as_str()) => name.clone(),
        Some(name) => return Err(CommandError::Usage(format!("there is no workspace {name}; there is {}", in_words(&names)))),
    };
    let facts = WindowFacts {
        app_id: arguments.app.clone(),
        instance: arguments.instance.clone(),
        role: arguments.role.clone(),
        title: arguments.title.clone(),
        window_type: kind(&arguments.kind)?,
        transient_for: arguments.transient.then_some(WindowId(1)),
        ..WindowFacts::default()
    };
    Ok(Tried { facts, workspace, monitor: arguments.monitor.clone() })
}

/// The setting that wins: the last rule that sets it.
fn winner<'j>(judged: &'j [RuleMatch], setting: &str) -> Option<&'j str> {
    let holding = judged.iter().rev().filter(|one| one.holds());
    holding.clone().find(|one| one.sets.iter().any(|(name, _)| *name == setting)).map(|one| one.rule.as_str())
}

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    let checked = context.usable_in(&["rule", "program", "workspaces"])?;
    let tried = if arguments.pick { picked(context)? } else { described(&arguments, &checked)? };
    let subject = Subject { facts: &tried.facts, workspace: &tried.workspace, monitor: &tried.monitor };
    let judged = judge(&checked.rice, &subject);
    if arguments.json {
        for one in &judged {
            let set: serde_json::Map<_, _> = one.sets.iter().map(|(name, value)| ((*name).to_owned(), json!(value))).collect();
            let wins: Vec<&str> =
                one.sets.iter().map(|(name, _)| *name).filter(|name| winner(&judged, name) == Some(&one.rule)).collect();
            let entry = json!({ "rule": one.rule, "holds": one.holds(), "misses": one.misses, "set": set, "wins": wins });
            writeln!(context.out, "{entry}")?;
        }
        return Ok(Exit::Done);
    }
    if arguments.pick {
        told(&tried, context)?;
    }
    let rules = rules_in_order(&checked.rice);
    let rows: Vec<Vec<String>> = judged
        .iter()
        .zip(&rules)
        .map(|(one, (_, rule))| {
            let what = match (&one.stopped, one.misses.as_slice()) {
                (Some(other), _) => Meaning::Second.paint(&format!("not asked: {other} stops")),
                (None, []) => Meaning::Done.paint("matches"),
                (None, misses) => Meaning::Second.paint(&format!("no: {}", misses.join(", "))),
            };
            vec![one.rule.clone(), what, asks(&rule.r#match), if one.holds() { sets(&one.sets) } else { String::new() }]
        })
        .collect();
    let out = &mut context.out;
    for line in columns(&rows, "  ", context.width) {
        writeln!(out, "{line}")?;
    }
    let mut settings: Vec<&str> = Vec::new();
    for (name, _) in judged.iter().filter(|one| one.holds()).flat_map(|one| &one.sets) {
        if !settings.contains(name) {
            settings.push(name);
        }
    }
    if settings.is_empty() {
        writeln!(out, "{}No rule sets anything on this window.", if rows.is_empty() { "" } else { "\n" })?;
        return Ok(Exit::Done);
    }
    writeln!(out, "\n{}", Meaning::Heading.paint("So it gets"))?;
    let won: Vec<Vec<String>> = settings
        .into_iter()
        .filter_map(|setting| {
            let rule = winner(&judged, setting)?;
            let value = judged.iter().find(|one| one.rule == rule)?.sets.iter().find(|(name, _)| *name == setting)?.1.clone();
            let node = checked.tree.get(&["rule", rule, "set", setting]);
            let place = match node {
                Some(Tree::Leaf(leaf)) => checked.sources.place(leaf.node.span).to_string(),
                _ => String::new(),
            };
            Some(vec![setting.to_owned(), value, format!("rule.{rule}"), Meaning::Place.paint(&place)])
        })
        .collect();
    for line in columns(&won, "  ", context.width) {
        writeln!(context.out, "{line}")?;
    }
    Ok(Exit::Done)
}

/// What was clicked, and the match that fits it.
fn told(tried: &Tried, context: &mut Context) -> Result<(), CommandError> {
    let facts = &tried.facts;
    let quoted = |text: &str| serde_json::Value::from(text).to_string();
    let mut fits = vec![format!("app = {}", quoted(&facts.app_id))];
    if facts.window_type != WindowKind::Normal {
        fits.push(format!("kind = {}", quoted(facts.window_type.word())));
    } else if !facts.role.is_empty() {
        fits.push(format!("role = {}", quoted(&facts.role)));
    }
    let rows: Vec<Vec<String>> = [
        ("app", facts.app_id.as_str()),
        ("instance", &facts.instance),
        ("title", &facts.title),
        ("role", &facts.role),
        ("kind", facts.window_type.word()),
        ("workspace", &tried.workspace),
        ("monitor", &tried.monitor),
    ]
    .into_iter()
    .filter(|(_, value)| !value.is_empty())
    .map(|(name, value)| vec![Meaning::Second.paint(name), value.to_owned()])
    .collect();
    for line in columns(&rows, "  ", context.width) {
        writeln!(context.out, "{line}")?;
    }
    advice(&mut context.out, "  ", &format!("match = {{ {} }}", fits.join(", ")), "fits it, in a [rule.NAME]")?;
    writeln!(context.out)?;
    Ok(())
}
