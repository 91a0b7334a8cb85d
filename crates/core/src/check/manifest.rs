//! `rice.toml`.

use jovrik_schema::{Branch, Tree, read_table};
use jovrik_text::problem::Problem;
use jovrik_text::{FileId, Sources, Span};
use jovrik_toml::{TomlValue, parse};

use crate::rice::{FORMAT, Manifest};

/// A list of the manifest, each element with its place; nothing when it is not given.
pub(super) type Listed = Option<Vec<(String, Span)>>;

/// What a manifest lists.
#[derive(Debug, Default)]
pub(super) struct Lists {
    /// Codes that it allows.
    pub allow: Vec<(String, Span)>,
    /// Fonts that it needs.
    pub fonts: Listed,
    /// Programs that it needs.
    pub programs: Listed,
}

/// What a manifest says, as a tree.
pub fn manifest_alone(sources: &Sources, file: FileId) -> Branch {
    let table = sources.get(file).map(|source| parse(file, source, &mut Vec::new())).unwrap_or_default();
    read_table::<Manifest>(sources, table, &mut Vec::new()).1
}

/// Reads the manifest, and its lists with their places; a newer format is the only thing said of it.
pub(super) fn read(sources: &Sources, file: FileId, was_read: bool, problems: &mut Vec<Problem>) -> (Manifest, Lists) {
    let mut own = Vec::new();
    let table = sources.get(file).map(|source| parse(file, source, &mut own)).unwrap_or_default();
    let (manifest, branch) = read_table::<Manifest>(sources, table, &mut own);
    let node = |path: [&str; 2]| branch.get(&path).and_then(Tree::leaf).map(|leaf| leaf.node.clone());
    if manifest.rice.format.0 > FORMAT {
        let problem = Problem::error(
            "file/newer-format",
            format!("this rice is written in format {}, which is newer than this program", manifest.rice.format.0),
        );
        let problem = match node(["rice", "format"]) {
            Some(node) => problem.at(node.span, format!("this program reads formats up to {FORMAT}")),
            None => problem,
        };
        problems.push(
            problem
                .because("What it says may mean something else by now, so nothing of it is used.")
                .advise("a newer Jovrik", "reads it"),
        );
        return (manifest, Lists::default());
    }
    problems.append(&mut own);
    let name = &manifest.rice.name;
    let fair = !name.is_empty() && name.bytes().all(|b| b.is_ascii_lowercase() || b.is_ascii_digit() || b == b'-');
    if was_read && !fair {
        let problem =
            Problem::error("setting/type", "the rice has no fit name").because("It names its folder, its bundle and its pages.");
        let note = "small letters, digits and - only";
        problems.push(match node(["rice", "name"]) {
            Some(node) => problem.at(node.span, note),
            None => problem.in_file("rice.toml", None).advise("name = \"my-rice\"", "in [rice]"),
        });
    }
    let listed = |path: [&str; 2]| match node(path)?.value {
        TomlValue::Array(items) => Some(items.iter().filter_map(|item| Some((item.text()?.to_owned(), item.span))).collect()),
        _ => None,
    };
    let lists = Lists {
        allow: listed(["check", "allow"]).unwrap_or_default(),
        fonts: listed(["needs", "fonts"]),
        programs: listed(["needs", "programs"]),
    };
    (manifest, lists)
}
