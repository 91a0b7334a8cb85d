//! Everything written in a rice that reaches out of it, whatever layer it is in: what somebody who takes it must see first.

use std::borrow::Cow;

use crate::desk::{Action, shell_line};
use crate::load::{Node, Sources, Span, Value, parse};
use crate::problem::in_words;
use crate::rice::Rice;
use crate::rice::catalogue::{Kind, Reach, Shape, find, path_of, steps};

/// One value that reaches out of a rice.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Reaching {
    /// The path of its setting.
    pub path: String,
    /// Where it stands.
    pub span: Span,
    /// How far it reaches.
    pub reach: Reach,
    /// What would be run, set or written, exactly; characters that cannot be seen are shown as what they are.
    pub what: String,
}

/// How far references are followed.
const MOST_STEPS: usize = 8;

/// Every value of the parts and overlays that reaches out, in the order of the files.
pub fn reaching(sources: &Sources) -> Vec<Reaching> {
    let settings = |name: &str| name.starts_with("parts/") || name.starts_with("overlays/");
    let tables: Vec<Vec<(String, Node)>> = sources
        .iter()
        .filter(|(_, source)| settings(&source.name))
        .map(|(file, source)| parse(file, source, &mut Vec::new()))
        .collect();
    let mut walk = Walk { tables: &tables, found: Vec::new() };
    for table in &tables {
        walk.table(table, &mut Vec::new());
    }
    walk.found
}

struct Walk<'a> {
    tables: &'a [Vec<(String, Node)>],
    found: Vec<Reaching>,
}

impl Walk<'_> {
    fn table(&mut self, entries: &[(String, Node)], path: &mut Vec<String>) {
        for (name, node) in entries {
            path.push(name.clone());
            match (find(Rice::CATALOGUE, path).map(|found| found.shape()), &node.value) {
                (Ok(Shape::One(kind)), _) => self.value(kind, node, path),
                (_, Value::Table(inner)) => self.table(inner, path),
                // A name that no catalogue has yet says nothing.
                _ => {}
            }
            path.pop();
        }
    }

    fn value(&mut self, kind: &'static Kind, node: &Node, path: &[String]) {
        let reach = kind.reach;
        // A list of nothing reaches nowhere.
        if reach == Reach::Inside || matches!(&node.value, Value::List(items) if items.is_empty()) {
            return;
        }
        let mut add = |node: &Node, reach: Reach, what: String| {
            let path = path_of(path);
            self.found.push(Reaching { path, span: node.span, reach, what: seen(&what).into_owned() });
        };
        match kind.name {
            "program" => {
                let (run, env) = match &node.value {
                    Value::Table(_) => (inner(node, "run"), inner(node, "env")),
                    _ => (Some(node), None),
                };
                run.into_iter().for_each(|run| add(run, reach, line(run)));
                for (name, value) in env.and_then(Node::entries).unwrap_or_default() {
                    add(value, Reach::Environment, format!("{name}={}", line(value)));
                }
            }
            "source" => {
                for own in ["run", "shell", "stream", "file"] {
                    let what = |node: &Node| if own == "file" { format!("reads {}", line(node)) } else { line(node) };
                    inner(node, own).into_iter().for_each(|node| add(node, reach, what(node)));
                }
            }
            "placed file" => {
                let to = path.last().map(String::as_str).unwrap_or_default();
                let from = inner(node, "from").map_or_else(|| line(node), line);
                let kind = sensitive(to).map(|what| format!(", {what}")).unwrap_or_default();
                add(node, reach, format!("{to} from {from}{kind}"));
            }
            "binding" | "press" | "table of times" | "action" => {
                let mut texts = Vec::new();
                all_texts(node, &mut texts);
                for text in texts {
                    if let Some(what) = does(text.text().unwrap_or_default()) {
                        add(text, reach, what);
                    }
                }
            }
            _ if reach == Reach::Environment => {
                let name = path.last().map(String::as_str).unwrap_or_default();
                add(node, reach, format!("{name}={}", line(node)));
            }
            "list" if kind.unit == "shell" => add(node, reach, format!("a block in the start file of {}", line(node))),
            // Whatever else there may be is shown as it stands.
            _ => add(node, reach, line(node)),
        }
        self.followed(kind, node, path, 0);
    }

    /// What stands elsewhere and is meant here by a reference counts as well.
    fn followed(&mut self, kind: &'static Kind, node: &Node, path: &[String], depth: usize) {
        let mut texts = Vec::new();
        all_texts(node, &mut texts);
        let meant = texts.iter().filter_map(|text| text.text()?.strip_prefix('=').filter(|path| !path.starts_with('=')));
        for target in meant.filter(|_| depth < MOST_STEPS) {
            let target = steps(target);
            for node in self.tables.iter().filter_map(|table| at(table, &target)) {
                let what = format!("{}, by reference", line(node));
                let what = seen(&what).into_owned();
                self.found.push(Reaching { path: path_of(path), span: node.span, reach: kind.reach, what });
                self.followed(kind, node, path, depth + 1);
            }
        }
    }
}

/// The node at a path of a file.
fn at<'n>(table: &'n [(String, Node)], path: &[String]) -> Option<&'n Node> {
    let (first, rest) = path.split_first()?;
    let (_, node) = table.iter().find(|(name, _)| name == first)?;
    if rest.is_empty() { Some(node) } else { at(node.entries()?, rest) }
}

fn inner<'n>(node: &'n Node, key: &str) -> Option<&'n Node> {
    node.entries()?.iter().find(|(name, _)| name == key).map(|(_, node)| node)
}

/// A value on one line: words as a shell would have them, a text as it is, anything else as TOML.
fn line(node: &Node) -> String {
    match &node.value {
        Value::Text(text) => text.clone(),
        Value::List(items) if items.iter().all(|item| item.text().is_some()) => {
            shell_line(&items.iter().filter_map(Node::text).collect::<Vec<_>>())
        }
        _ => node.to_toml(),
    }
}

/// What an action would start; nothing when it starts nothing that is not named elsewhere. A text that is no action yet, such
/// as a reference, is shown as it is.
fn does(text: &str) -> Option<String> {
    match Action::parse(text) {
        Ok(action) => action.reaches(),
        Err(_) => text.starts_with('=').then(|| text.to_owned()),
    }
}

fn all_texts<'n>(node: &'n Node, out: &mut Vec<&'n Node>) {
    match &node.value {
        Value::Text(_) => out.push(node),
        Value::List(items) => items.iter().for_each(|item| all_texts(item, out)),
        Value::Table(items) => items.iter().for_each(|(_, item)| all_texts(item, out)),
        _ => {}
    }
}

/// Characters that cannot be seen, or that turn the order of others, as what they are: `\n`, `\u{202e}`.
pub fn seen(text: &str) -> Cow<'_, str> {
    let hidden = |c: char| {
        c.is_control()
            || matches!(c,
                '\u{ad}' | '\u{34f}' | '\u{61c}' | '\u{115f}' | '\u{1160}' | '\u{17b4}' | '\u{17b5}' | '\u{180b}'..='\u{180f}'
                | '\u{200b}'..='\u{200f}' | '\u{2028}'..='\u{202e}' | '\u{2060}'..='\u{206f}' | '\u{3164}' | '\u{feff}'
                | '\u{fe00}'..='\u{fe0f}' | '\u{ffa0}' | '\u{fff0}'..='\u{fffb}' | '\u{1d173}'..='\u{1d17a}'
                | '\u{e0000}'..='\u{e0fff}' | '\u{e000}'..='\u{f8ff}')
    };
    if !text.chars().any(hidden) {
        return Cow::Borrowed(text);
    }
    let one = |c: char| match c {
        '\n' => "\\n".to_owned(),
        '\t' => "\\t".to_owned(),
        '\r' => "\\r".to_owned(),
        c if hidden(c) => format!("\\u{{{:x}}}", u32::from(c)),
        c => c.to_string(),
    };
    text.chars().map(one).collect::<String>().into()
}

/// What a file is that a rice wants to place, when it is one by which programs are run or doors are opened.
pub fn sensitive(to: &str) -> Option<&'static str> {
    let path = to.trim_start_matches("~/").trim_start_matches('/');
    let name = path.rsplit('/').next().unwrap_or(path);
    let shells = [
        ".bashrc",
        ".bash_profile",
        ".bash_login",
        ".bash_logout",
        ".profile",
        ".zshrc",
        ".zshenv",
        ".zprofile",
        ".zlogin",
        ".zlogout",
        ".kshrc",
        ".mkshrc",
        ".cshrc",
        ".tcshrc",
        ".login",
        ".inputrc",
        ".bash_aliases",
        "config.fish",
    ];
    let sessions = [".xprofile", ".xinitrc", ".xsession", ".xsessionrc", ".xserverrc", ".pam_environment"];
    let within = |folders: &[&str]| folders.iter().any(|folder| path.starts_with(folder));
    match () {
        () if shells.contains(&name) || within(&[".config/fish/", ".config/bash", ".config/zsh"]) => {
            Some("a start file of a shell")
        }
        () if sessions.contains(&name) || within(&[".config/environment.d/"]) => Some("a start file of the session"),
        () if within(&[".ssh/"]) => Some("a file of ssh: keys, or who may come in"),
        () if within(&[".gnupg/"]) => Some("a file of keys"),
        () if within(&[".config/autostart/", ".config/systemd/"]) => Some("starts by itself at login"),
        () if within(&[".local/bin/", "bin/"]) => Some("a program on PATH"),
        () if within(&[".local/share/applications/", ".local/share/dbus-1/"]) => Some("says how a program is started"),
        () if [".gitconfig", "crontab", ".netrc", ".npmrc", ".pip.conf"].contains(&name) || within(&[".config/git/"]) => {
            Some("can make other programs run something")
        }
        () if to.starts_with('/') => Some("outside the home folder"),
        () => None,
    }
}

/// What several values are, for a sentence: `3 programs, a variable and 2 files`.
pub fn summed(all: &[Reaching]) -> String {
    let of = |reach: Reach| all.iter().filter(|one| one.reach == reach).count();
    let words = [(Reach::Starts, "command"), (Reach::Environment, "variable"), (Reach::Writes, "placed file")];
    let counted: Vec<String> =
        words.iter().filter(|(reach, _)| of(*reach) > 0).map(|(reach, word)| crate::problem::count(of(*reach), word)).collect();
    in_words(&counted)
}
