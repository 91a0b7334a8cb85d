//! Files laid over each other, against the same told from a list of what each says: values, chains, and what is set twice.

use std::collections::BTreeMap;

use jovrik_core::check::{CheckedRice, Files, check};
use jovrik_core::machine::Machine;
use jovrik_schema::ConfigLayer;
use jovrik_text::{Source, Sources};
use proptest::prelude::*;

use crate::{MANIFEST, found};

/// Settings that are numbers, with what they are where nobody sets them.
const NUMBERS: [(&str, &str, i32); 4] =
    [("space", "edge", 12), ("space", "between", 8), ("frame", "width", 2), ("frame", "radius", 8)];
/// One that is a list.
const LIST: usize = NUMBERS.len();
const MODULES: [&str; 4] = ["m0", "m1", "m2", "m3"];

/// What is said of a setting.
#[derive(Debug, Clone, PartialEq)]
enum Said {
    Number(i32),
    /// What another number is: only one before it, so that none goes in a circle.
    Like(usize),
    /// Modules; nothing stands for what a list was below.
    List(Vec<Option<usize>>),
}

/// How an assignment is written.
#[derive(Debug, Clone, Copy)]
enum Form {
    Table,
    Dotted,
    Inline,
}

type Says = BTreeMap<usize, (Said, Form)>;

#[derive(Debug, Clone)]
struct Over {
    order: i32,
    holds: bool,
    drops: Vec<usize>,
    says: Says,
}

#[derive(Debug, Clone)]
struct All {
    parts: Vec<Says>,
    overlays: Vec<Over>,
    with: Says,
}

fn place(setting: usize) -> (&'static str, &'static str) {
    NUMBERS.get(setting).map_or(("bar.top", "end"), |(table, key, _)| (table, key))
}

impl Said {
    fn toml(&self) -> String {
        match self {
            Said::Number(number) => number.to_string(),
            Said::Like(other) => format!("\"={}.{}\"", NUMBERS[*other].0, NUMBERS[*other].1),
            Said::List(items) => {
                let items: Vec<&str> = items.iter().map(|item| item.map_or("...", |at| MODULES[at])).collect();
                format!("{items:?}")
            }
        }
    }
}

/// A file that says something, each thing in its form.
fn written(says: &Says) -> String {
    let (mut above, mut below) = (String::new(), String::new());
    for (setting, (said, form)) in says {
        let ((table, key), value) = (place(*setting), said.toml());
        // A table that is opened in one form cannot be opened in another one: only what is alone in it may choose.
        let alone = says.keys().filter(|other| place(**other).0 == table).count() == 1;
        match form {
            Form::Dotted if alone => above.push_str(&format!("{table}.{key} = {value}\n")),
            Form::Inline if alone => above.push_str(&format!("{table} = {{ {key} = {value} }}\n")),
            _ if below.contains(&format!("[{table}]\n")) => {
                let at = below.find(&format!("[{table}]\n")).expect("it is there") + table.len() + 3;
                below.insert_str(at, &format!("{key} = {value}\n"));
            }
            _ => below.push_str(&format!("[{table}]\n{key} = {value}\n")),
        }
    }
    above + &below
}

/// What holds of each setting: its layer and value, and what it won over, the latest first.
#[derive(Debug, Default)]
struct Told {
    chains: BTreeMap<usize, Vec<(ConfigLayer, Said)>>,
    /// How often two files of one layer differ.
    twice: usize,
}

impl Told {
    fn lay(&mut self, layer: ConfigLayer, says: &Says) {
        for (setting, (said, _)) in says {
            let chain = self.chains.entry(*setting).or_default();
            let below = chain.first().map(|(_, said)| said.clone());
            let mut spliced = false;
            let whole = match said {
                Said::List(items) => {
                    spliced = items.contains(&None);
                    let inherited = match below {
                        Some(Said::List(items)) => items,
                        _ => Vec::new(),
                    };
                    let each = |item: &Option<usize>| item.map_or_else(|| inherited.clone(), |at| vec![Some(at)]);
                    Said::List(items.iter().flat_map(each).collect())
                }
                other => other.clone(),
            };
            let differs = chain.first().is_some_and(|(own, below)| *own == layer && *below != whole);
            self.twice += usize::from(differs && !spliced);
            chain.insert(0, (layer, whole));
        }
    }

    fn of(all: &All) -> Told {
        let mut told = Told::default();
        all.parts.iter().for_each(|says| told.lay(ConfigLayer::Parts, says));
        let mut overlays: Vec<&Over> = all.overlays.iter().filter(|over| over.holds).collect();
        // Those of one order go by their names, which they have in order.
        overlays.sort_by_key(|over| over.order);
        for (nth, over) in overlays.into_iter().enumerate() {
            over.drops.iter().for_each(|setting| drop(told.chains.remove(setting)));
            told.lay(ConfigLayer::Overlay(nth as u16), &over.says);
        }
        told.lay(ConfigLayer::With, &all.with);
        told
    }

    fn number(&self, setting: usize) -> i32 {
        match self.chains.get(&setting).and_then(|chain| chain.first()) {
            Some((_, Said::Number(number))) => *number,
            Some((_, Said::Like(other))) => self.number(*other),
            _ => NUMBERS[setting].2,
        }
    }

    fn list(&self) -> Vec<&'static str> {
        match self.chains.get(&LIST).and_then(|chain| chain.first()) {
            Some((_, Said::List(items))) => items.iter().flatten().map(|at| MODULES[*at]).collect(),
            _ => Vec::new(),
        }
    }
}

fn laid(all: &All) -> CheckedRice {
    let mut files = Files { manifest: Some(Source::new("rice.toml", MANIFEST)), ..Files::default() };
    let modules: String = MODULES.iter().map(|name| format!("[module.{name}]\ntext = \"{name}\"\n")).collect();
    files.add(Source::new("parts/z.toml", modules + "[bar.top]\nthick = 30\n"));
    for (nth, says) in all.parts.iter().enumerate() {
        files.add(Source::new(format!("parts/p{nth}.toml"), written(says)));
    }
    for (nth, over) in all.overlays.iter().enumerate() {
        let host = if over.holds { "skiff" } else { "dinghy" };
        let drops: Vec<String> =
            over.drops.iter().map(|setting| format!("{}.{}", place(*setting).0, place(*setting).1)).collect();
        let head = format!("overlay = {{ order = {}, when = {{ host = \"{host}\" }}, drop = {drops:?} }}\n", over.order);
        files.add(Source::new(format!("overlays/o{nth}.toml"), head + &written(&over.says)));
    }
    let with: Vec<(String, String)> = all
        .with
        .iter()
        .map(|(setting, (said, _))| (format!("{}.{}", place(*setting).0, place(*setting).1), said.toml()))
        .collect();
    let skiff = "host = \"skiff\"\ncores = 4\n[monitor]\neDP-1 = \"1366x768\"\n";
    let (machine, problems) = Machine::read(&mut Sources::default(), Source::new("machines/skiff.toml", skiff));
    assert_eq!(problems, Vec::new());
    check(files, &with, &machine)
}

fn says() -> impl Strategy<Value = Says> {
    let form = || prop_oneof![Just(Form::Table), Just(Form::Dotted), Just(Form::Inline)];
    let number = (0..NUMBERS.len(), 0i32..25, any::<bool>()).prop_map(|(setting, number, like)| {
        let said = if like && setting > 0 { Said::Like(number as usize % setting) } else { Said::Number(number) };
        (setting, said)
    });
    let item = prop_oneof![3 => (0..MODULES.len()).prop_map(Some), 1 => Just(None)];
    let list = prop::collection::vec(item, 0..4).prop_map(|items| (LIST, Said::List(items)));
    let one = (prop_oneof![3 => number, 1 => list], form()).prop_map(|((setting, said), form)| (setting, (said, form)));
    prop::collection::vec(one, 0..5).prop_map(|all| all.into_iter().collect())
}

fn all() -> impl Strategy<Value = All> {
    let drops = prop::collection::btree_set(0..=LIST, 0..2).prop_map(|all| all.into_iter().collect());
    let over = (-3i32..4, prop::bool::weighted(0.75), drops, says()).prop_map(|(order, holds, drops, says)| Over {
        order,
        holds,
        drops,
        says,
    });
    (prop::collection::vec(says(), 1..4), prop::collection::vec(over, 0..4), says()).prop_map(|(parts, overlays, with)| All {
        parts,
        overlays,
        with,
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(256))]

    #[test]
    fn files_are_laid_over_each_other_as_each_says(all in all()) {
        let (checked, told) = (laid(&all), Told::of(&all));
        let rice = &checked.rice;
        let numbers = [rice.space.edge.0, rice.space.between.0, rice.frame.width.0, rice.frame.radius.0];
        for (setting, number) in numbers.into_iter().enumerate() {
            prop_assert_eq!(number, told.number(setting), "{:?}", place(setting));
        }
        prop_assert_eq!(&rice.bar["top"].end, &told.list());
        for setting in 0..=LIST {
            let (table, key) = place(setting);
            let steps: Vec<&str> = table.split('.').chain([key]).collect();
            let leaf = checked.tree.get(&steps).and_then(|tree| tree.leaf());
            let chain: Vec<(ConfigLayer, String)> = leaf.into_iter().flat_map(|leaf| {
                let own = (leaf.layer, leaf.node.to_toml());
                std::iter::once(own).chain(leaf.over.iter().map(|(layer, node)| (*layer, node.to_toml())))
            }).collect();
            let wanted: Vec<(ConfigLayer, String)> = told.chains.get(&setting).into_iter().flatten()
                .map(|(layer, said)| (*layer, said.toml())).collect();
            prop_assert_eq!(chain, wanted, "{:?}", place(setting));
        }
        let twice = found(&checked).iter().filter(|one| one.starts_with("setting/twice")).count();
        prop_assert_eq!(twice, told.twice, "{:?}", found(&checked));
    }

    #[test]
    fn an_order_of_assignments_in_a_file_means_nothing(says in says()) {
        let one = All { parts: vec![says.clone()], overlays: Vec::new(), with: Says::new() };
        // Each in a file of its own.
        let apart = says.into_iter().map(|one| [one].into_iter().collect()).rev().collect();
        let apart = All { parts: apart, overlays: Vec::new(), with: Says::new() };
        let (one, apart) = (laid(&one), laid(&apart));
        prop_assert_eq!(&*one.rice, &*apart.rice);
    }
}
