//! Everything written in a rice that reaches out of it, whatever layer it is in: what somebody who takes it must see first.

use std::borrow::Cow;
use std::collections::HashMap;

use jovrik_schema::Branch;
use jovrik_schema::catalogue::{Capability, SettingShape, ValueType, find, normal_steps};
use jovrik_text::problem::in_words;
use jovrik_text::{FileId, Source, Sources, Span, shell_line};
use jovrik_toml::{SpannedValue, TomlValue, parse, path_of, steps};
use jovrik_values::action::Action;

use super::possible_values::{Layer, Possible, Unclear, all_texts, layer_of, leaves};
use crate::rice::Rice;

/// One value that reaches out of a rice.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct CapabilityUse {
    /// The path of its setting.
    pub path: String,
    /// Where it stands.
    pub span: Span,
    /// How far it reaches.
    pub reach: Capability,
    /// What would be run, set or written, exactly, with all references followed; characters that cannot be seen are shown as
    /// what they are.
    pub what: String,
    /// How it is written, where what it comes to stands elsewhere.
    pub through: Option<String>,
    /// A sum of the files of the rice that it names, and of what is filled into them; for whoever has them.
    pub content: Option<String>,
}

/// Every value of the parts and overlays that reaches out, in the order of the files: what it may come to, with all
/// references followed, whichever overlays hold.
///
/// # Errors
///
/// When it cannot be said what a value comes to.
pub fn reaching(sources: &Sources) -> Result<Vec<CapabilityUse>, Unclear> {
    let layers = layers(sources);
    let mut found: Vec<CapabilityUse> = Vec::new();
    for lead in leads(&layers) {
        for one in of_layers(&layers, &lead)? {
            if !found.contains(&one) {
                found.push(one);
            }
        }
    }
    Ok(found)
}

/// Everything that a setting may be, on one line each: with all references followed, whichever overlays hold.
///
/// # Errors
///
/// When it cannot be said what it comes to.
pub fn possible_texts(sources: &Sources, path: &str) -> Result<Vec<String>, Unclear> {
    let layers = layers(sources);
    let mut texts = Vec::new();
    for lead in leads(&layers) {
        let path = path_of(&normal_steps(Rice::CATALOGUE, &steps(path), &lead));
        texts.extend(Possible::new(&layers, &lead).of_path(&path)?.iter().map(line));
    }
    Ok(texts)
}

/// Every value of a merged tree that reaches out, as it is there: with all references followed.
///
/// # Errors
///
/// When it cannot be said what a value comes to.
pub fn reaching_of(tree: &Branch) -> Result<Vec<CapabilityUse>, Unclear> {
    // Chords are spelled in one way there.
    of_layers(&[layer_of(tree)], "Super")
}

fn layers(sources: &Sources) -> Vec<Layer> {
    let settings = |name: &str| name.starts_with("parts/") || name.starts_with("overlays/");
    let files = sources.iter().filter(|(_, source)| settings(&source.name));
    let layer = |(file, source): (FileId, &Source)| Layer {
        entries: parse(file, source, &mut Vec::new()),
        always: source.name.starts_with("parts/"),
    };
    files.map(layer).collect()
}

/// What `Lead` may stand for, by which chords are spelled.
fn leads(layers: &[Layer]) -> Vec<String> {
    let mut leads: Vec<String> = layers.iter().map(|layer| super::lead_of(std::iter::once(&layer.entries), &[])).collect();
    leads.push("Super".to_owned());
    leads.sort_unstable();
    leads.dedup();
    leads
}

fn of_layers(layers: &[Layer], lead: &str) -> Result<Vec<CapabilityUse>, Unclear> {
    let possible = Possible::new(layers, lead);
    let mut fed: HashMap<String, String> = HashMap::new();
    let mut all: Vec<(Vec<String>, &SpannedValue)> = Vec::new();
    for layer in layers {
        leaves(layer, &mut |path, node| {
            let reach = kind_at(path).map_or(Capability::None, |kind| kind.reach);
            // A list of nothing reaches nowhere.
            if reach != Capability::None && !matches!(&node.value, TomlValue::Array(items) if items.is_empty()) {
                all.push((path.to_vec(), node));
            }
        });
    }
    for (path, node) in &all {
        for source in possible.sources_of(node) {
            fed.entry(source).or_insert_with(|| path_of(path));
        }
    }
    let mut walk = Walk { fed: &fed, lead, found: Vec::new() };
    for (path, node) in &all {
        let normal = path_of(&normal_steps(Rice::CATALOGUE, path, lead));
        let mut ends = possible.of(&normal, node)?;
        if ends.is_empty() {
            // It refers to what is not there: it is shown as it stands.
            ends.push((*node).clone());
        }
        for end in ends {
            let through = (!end.same(node)).then(|| seen(&line(node)).into_owned());
            walk.value(&end, path, through.as_deref());
        }
    }
    Ok(walk.found)
}

fn kind_at(path: &[String]) -> Option<&'static ValueType> {
    match find(Rice::CATALOGUE, path).ok()?.shape() {
        SettingShape::One(kind) => Some(kind),
        SettingShape::Table(_) | SettingShape::Named(..) => None,
    }
}

struct Walk<'a> {
    /// The settings that values reaching out take something from, each with the path of one of those.
    fed: &'a HashMap<String, String>,
    lead: &'a str,
    found: Vec<CapabilityUse>,
}

impl Walk<'_> {
    /// A value in which no reference stands any more.
    fn value(&mut self, node: &SpannedValue, path: &[String], through: Option<&str>) {
        let Some(kind) = kind_at(path) else { return };
        let reach = kind.reach;
        let found = &mut self.found;
        let mut add = |node: &SpannedValue, reach: Capability, what: String| {
            let (path, what, through) = (path_of(path), seen(&what).into_owned(), through.map(str::to_owned));
            found.push(CapabilityUse { path, span: node.span, reach, what, through, content: None });
        };
        match kind.name {
            "program" => {
                let (run, env) = match &node.value {
                    TomlValue::Table(_) => (inner(node, "run"), inner(node, "env")),
                    _ => (Some(node), None),
                };
                run.into_iter().for_each(|run| add(run, reach, line(run)));
                for (name, value) in env.and_then(SpannedValue::entries).unwrap_or_default() {
                    add(value, Capability::Environment, format!("{name}={}", line(value)));
                }
            }
            "source" => {
                for own in ["run", "shell", "stream", "file"] {
                    let what = |node: &SpannedValue| if own == "file" { format!("reads {}", line(node)) } else { line(node) };
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
                for text in all_texts(node) {
                    if let Some(what) = does(text.text().unwrap_or_default(), self.fed, self.lead) {
                        add(text, reach, what);
                    }
                }
            }
            _ if reach == Capability::Environment => {
                let name = path.last().map(String::as_str).unwrap_or_default();
                add(node, reach, format!("{name}={}", line(node)));
            }
            "list" if kind.unit == "shell" => add(node, reach, format!("a block in the start file of {}", line(node))),
            // Whatever else there may be is shown as it stands.
            _ => add(node, reach, line(node)),
        }
    }
}

fn inner<'n>(node: &'n SpannedValue, key: &str) -> Option<&'n SpannedValue> {
    node.entries()?.iter().find(|(name, _)| name == key).map(|(_, node)| node)
}

/// A value on one line: words as a shell would have them, a text as it is, anything else as TOML.
fn line(node: &SpannedValue) -> String {
    match &node.value {
        TomlValue::String(text) => text.clone(),
        TomlValue::Array(items) if items.iter().all(|item| item.text().is_some()) => {
            shell_line(&items.iter().filter_map(SpannedValue::text).collect::<Vec<_>>())
        }
        _ => node.to_toml(),
    }
}

/// What an action would start, also by another value for a setting that commands take something from; nothing when it starts
/// nothing that is not named elsewhere. A text that is no action yet, such as a reference, is shown as it is.
fn does(text: &str, fed: &HashMap<String, String>, lead: &str) -> Option<String> {
    match Action::parse(text) {
        Ok(action) => {
            let all = match action {
                Action::All(all) => all,
                one => vec![one],
            };
            let each = all.iter().filter_map(|action| feeds(action, fed, lead).or_else(|| action.reaches()));
            Some(each.collect::<Vec<_>>().join("; ")).filter(|all| !all.is_empty())
        }
        Err(_) => text.starts_with('=').then(|| text.to_owned()),
    }
}

/// What an action that sets something says by it elsewhere.
fn feeds(action: &Action, fed: &HashMap<String, String>, lead: &str) -> Option<String> {
    let Action::Set(setting) = action else { return None };
    let path = path_of(&normal_steps(Rice::CATALOGUE, &steps(&setting.path), lead));
    let to = fed.get(&path)?;
    Some(format!("sets {} = {}, which {to} takes over", setting.path, setting.value))
}

/// Whether a character hides: bidirectional controls, what has no width, what is not shown at all (Unicode Technical Report 36,
/// section 3).
pub fn hides(c: char) -> bool {
    matches!(c,
        '\u{ad}' | '\u{34f}' | '\u{61c}' | '\u{115f}' | '\u{1160}' | '\u{17b4}' | '\u{17b5}' | '\u{180b}'..='\u{180f}'
        | '\u{200b}'..='\u{200f}' | '\u{2028}'..='\u{202e}' | '\u{2060}'..='\u{206f}' | '\u{3164}' | '\u{feff}'
        | '\u{ffa0}' | '\u{fff0}'..='\u{fffb}' | '\u{1d173}'..='\u{1d17a}' | '\u{e0000}'..='\u{e0fff}')
}

/// Characters that cannot be seen, that turn the order of others, or that each font draws as it likes, as what they are: `\n`,
/// `\u{202e}`.
pub fn seen(text: &str) -> Cow<'_, str> {
    let hidden = |c: char| c.is_control() || hides(c) || matches!(c, '\u{fe00}'..='\u{fe0f}' | '\u{e000}'..='\u{f8ff}');
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
pub fn summed(all: &[CapabilityUse]) -> String {
    let of = |reach: Capability| all.iter().filter(|one| one.reach == reach).count();
    let words = [(Capability::Execute, "command"), (Capability::Environment, "variable"), (Capability::WriteFile, "placed file")];
    let counted: Vec<String> = words
        .iter()
        .filter(|(reach, _)| of(*reach) > 0)
        .map(|(reach, word)| jovrik_text::problem::count(of(*reach), word))
        .collect();
    in_words(&counted)
}
