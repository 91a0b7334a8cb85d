//! The one catalogue of settings: path, type, default, allowed values, help, and what a change takes.
//!
//! [`settings!`](crate::catalogue) declares a table once, as a struct; the struct, its reading, its checks
//! and its entries in the catalogue all come from that declaration.

use jovrik_text::Span;
use jovrik_text::problem::Problem;
use jovrik_toml::{SpannedValue, ValueError};

pub use crate::capability::Capability;
use crate::{ReadCursor, SettingReader};

/// When a changed setting is in effect.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ReloadPolicy {
    /// On the next reload.
    Immediate,
    /// When its part starts again.
    Restart,
    /// At the next login.
    Login,
    /// Not at all yet: it is read and checked, and nothing acts on it.
    Unimplemented,
}

impl ReloadPolicy {
    /// In words that follow "takes effect".
    pub fn words(self) -> &'static str {
        match self {
            ReloadPolicy::Immediate => "at once",
            ReloadPolicy::Restart => "when its part starts again",
            ReloadPolicy::Login => "at the next login",
            ReloadPolicy::Unimplemented => "not yet: it is checked and kept, and nothing acts on it so far",
        }
    }
}

/// What a value may be.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ValueConstraint {
    /// Whatever its type can say.
    Any,
    /// Numbers from the first to the last.
    Range(i64, i64),
    /// One of these words.
    OneOf(&'static [&'static str]),
}

/// The type of one value.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct ValueType {
    /// What it is called: `length`, `colour`.
    pub name: &'static str,
    /// Its unit, or nothing.
    pub unit: &'static str,
    /// What it may be.
    pub allowed: ValueConstraint,
    /// A value as TOML; empty where the allowed ones give one. Of a list: an element.
    pub example: &'static str,
    /// How far it reaches.
    pub reach: Capability,
    /// What a value that is a table in one line may say; of a list: an element.
    pub fields: &'static [InlineField],
}

/// A field of a value that is a table in one line, such as `match` of a rule.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct InlineField {
    /// Its name, in kebab-case.
    pub name: &'static str,
    /// One line of help.
    pub help: &'static str,
    /// Its type.
    pub kind: &'static ValueType,
    /// A telling value as TOML, where that of its type does not say enough.
    pub example: Option<&'static str>,
}

impl InlineField {
    /// A field with the example of its type.
    pub const fn new(name: &'static str, help: &'static str, kind: &'static ValueType) -> InlineField {
        InlineField { name, help, kind, example: None }
    }

    /// With an example of its own.
    pub const fn such(self, example: &'static str) -> InlineField {
        InlineField { example: Some(example), ..self }
    }

    /// A value that it could have, as TOML.
    pub fn example(&self) -> String {
        self.setting(ReloadPolicy::Immediate).example()
    }

    /// The same as a setting, to look for it as for any other.
    pub fn setting(&self, takes: ReloadPolicy) -> SettingField {
        let InlineField { name, help, kind, example } = *self;
        SettingField { name, help, also: "", default: None, takes, example, shape: SettingShape::One(kind) }
    }
}

impl ValueType {
    /// What lists are called.
    pub const LIST: &'static str = "list";
    /// What plain texts are called.
    pub const TEXT: &'static str = "text";

    /// What bindings are called, of the desk and of other programs: the names of these are chords.
    pub const BINDING: &'static str = "binding";
    /// The same in free words.
    pub const SAYS: &'static str = "binding in free words";
    /// The same of the launcher.
    pub const LAUNCHES: &'static str = "binding of the launcher";

    /// Whether it is bound to a chord.
    pub fn is_binding(&self) -> bool {
        [ValueType::BINDING, ValueType::SAYS, ValueType::LAUNCHES].contains(&self.name)
    }

    /// Whether its values are lists of others.
    pub fn is_list(&self) -> bool {
        self.name == ValueType::LIST
    }

    /// Whether its values are plain texts, whatever they look like.
    pub fn is_text(&self) -> bool {
        self.name == ValueType::TEXT
    }
}

/// A grammar of names, by which each is spelled in one way.
#[derive(Debug)]
pub struct NameGrammar {
    /// What stands for such a name in a path: `CHORD`.
    pub placeholder: &'static str,
    /// A name, spelled in one way; `lead` is the modifier that `Lead` stands for. Nothing where it is no such name.
    pub normalise: fn(name: &str, lead: &str) -> Option<String>,
    /// What is wrong with a name that is none, where it stands, and as it is written there.
    pub problem: fn(name: &str, lead: &str, place: Span, written: &str) -> Option<Problem>,
}

impl PartialEq for NameGrammar {
    fn eq(&self, other: &NameGrammar) -> bool {
        self.placeholder == other.placeholder
    }
}

impl Eq for NameGrammar {}

/// How the names of a table of named things are read.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum KeySyntax {
    /// A person chooses them.
    Chosen,
    /// They follow a grammar, and are normalised before merging.
    Spelled(&'static NameGrammar),
    /// They are paths of files.
    Files,
    /// They are elements, which hold elements of the same shape beside their own properties.
    Elements,
}

/// What stands at a path.
#[derive(Debug, Clone, Copy)]
pub enum SettingShape {
    /// One value, replaced whole.
    One(&'static ValueType),
    /// Settings with names of ours.
    Table(&'static SettingTable),
    /// Things of one shape, named by a person.
    Named(KeySyntax, &'static SettingShape),
}

/// Settings with names of ours.
#[derive(Debug, Clone, Copy)]
pub struct SettingTable {
    /// One line of help.
    pub help: &'static str,
    /// The settings, in the order they are shown.
    pub fields: &'static [SettingField],
    /// What other names mean here.
    pub rest: Option<(KeySyntax, &'static SettingShape)>,
}

/// One setting of a table.
#[derive(Debug, Clone, Copy)]
pub struct SettingField {
    /// Its name, in kebab-case.
    pub name: &'static str,
    /// One line of help.
    pub help: &'static str,
    /// What else it is called by people who look for it, with commas between.
    pub also: &'static str,
    /// Its default as TOML, if it has one.
    pub default: Option<&'static str>,
    /// When a change is in effect.
    pub takes: ReloadPolicy,
    /// A telling value as TOML, where that of its type does not say enough.
    pub example: Option<&'static str>,
    /// What stands there.
    pub shape: SettingShape,
}

impl SettingField {
    /// A value that it could have, as TOML, other than its default where that is possible.
    pub fn example(&self) -> String {
        if let Some(example) = self.example {
            return example.trim().to_owned();
        }
        let SettingShape::One(kind) = self.shape else { return String::new() };
        let other = |words: &[&'static str]| {
            let other = words.iter().rev().find(|word| self.default.is_none_or(|default| default.trim_matches('"') != **word));
            other.or(words.first()).map(|word| (*word).to_owned()).unwrap_or_default()
        };
        match (kind.name, kind.allowed, kind.example) {
            ("list", ValueConstraint::OneOf(words), _) => format!("[\"{}\"]", other(words)),
            ("list", _, element) => format!("[{element}]"),
            ("true or false", ValueConstraint::OneOf(words), _) => other(words),
            (_, ValueConstraint::OneOf(words), "") => format!("\"{}\"", other(words)),
            (_, ValueConstraint::Range(from, to), _) => {
                let default = self.default.and_then(|default| default.parse::<f64>().ok()).map_or(from, |number| number as i64);
                let more = default + (default / 2).max(1);
                (if more <= to { more } else { from }).to_string()
            }
            (_, _, example) => example.to_owned(),
        }
    }
}

impl SettingTable {
    /// A table without settings.
    pub const NONE: SettingTable = SettingTable { help: "", fields: &[], rest: None };

    /// The field of this name.
    pub fn field(&self, name: &str) -> Option<&'static SettingField> {
        self.fields.iter().find(|field| field.name == name)
    }

    /// The field that a wrong name may mean, and whether it is spelled nearly so: else it is what people call it.
    pub fn near(&self, name: &str) -> Option<(&'static SettingField, bool)> {
        let lower = name.to_lowercase().replace(['-', '_'], " ");
        let called = |field: &&SettingField| field.also.split(", ").any(|also| also == lower);
        // `border color` is what a `frame.color` means.
        let ends = format!(" {lower}");
        let partly = |field: &&SettingField| field.also.split(", ").any(|also| also.ends_with(&ends));
        if let Some(field) = self.fields.iter().find(called).or_else(|| self.fields.iter().find(partly)) {
            return Some((field, false));
        }
        let near = jovrik_text::problem::nearest(name, self.fields.iter().map(|field| field.name))?;
        self.field(near).map(|field| (field, true))
    }
}

/// The table of a shape that is one.
pub const fn table_of(shape: SettingShape) -> &'static SettingTable {
    match shape {
        SettingShape::Table(table) => table,
        SettingShape::One(_) | SettingShape::Named(..) => &SettingTable::NONE,
    }
}

/// What can stand in a rice.
pub trait Setting: Sized {
    /// Its place in the catalogue.
    const SHAPE: SettingShape;
    /// Reads it; problems go to the reader, and a harmless value stands in.
    fn read(reader: &mut SettingReader<'_>, at: &ReadCursor<'_>) -> Self;
}

/// A value that is replaced whole. Its `Default` stands in where a value was refused and the catalogue has none.
pub trait AtomicSetting: Sized + Default {
    /// Its type.
    const KIND: ValueType;
    /// Reads it from a node whose references are resolved.
    fn from_node(node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Self, ValueError>;
}

impl<T: AtomicSetting> Setting for T {
    const SHAPE: SettingShape = SettingShape::One(&T::KIND);
    fn read(reader: &mut SettingReader<'_>, at: &ReadCursor<'_>) -> Self {
        reader.value(at)
    }
}

/// What a path of the catalogue leads to.
#[derive(Debug, Clone, Copy)]
pub enum CatalogueMatch {
    /// A setting of ours.
    Field(&'static SettingField),
    /// A thing that a person named, or one value in it.
    Named(SettingShape),
}

impl CatalogueMatch {
    /// The shape at the path.
    pub fn shape(self) -> SettingShape {
        match self {
            CatalogueMatch::Field(field) => field.shape,
            CatalogueMatch::Named(shape) => shape,
        }
    }
}

/// What a name leads to in a table of named things.
fn below(here: SettingShape, names: KeySyntax, inner: &'static SettingShape, step: &str) -> CatalogueMatch {
    match (names, table_of(*inner).field(step)) {
        (KeySyntax::Elements, Some(property)) => CatalogueMatch::Field(property),
        (KeySyntax::Elements, None) => CatalogueMatch::Named(here),
        _ => CatalogueMatch::Named(*inner),
    }
}

/// Whether a step can be such a name.
fn is_name(names: KeySyntax, step: &str) -> bool {
    match names {
        // Which modifier the lead is does not matter here; a name that stands for any does.
        KeySyntax::Spelled(grammar) => step == "NAME" || (grammar.normalise)(step, "Super").is_some(),
        KeySyntax::Chosen | KeySyntax::Files | KeySyntax::Elements => true,
    }
}

/// Follows a path; an error says how many steps were good.
pub fn find<S: AsRef<str>>(table: &'static SettingTable, steps: &[S]) -> Result<CatalogueMatch, usize> {
    let mut shape = SettingShape::Table(table);
    let mut found = None;
    for (at, step) in steps.iter().enumerate() {
        let step = step.as_ref();
        let next = match shape {
            SettingShape::One(_) => None,
            SettingShape::Table(table) => match table.field(step) {
                Some(field) => Some(CatalogueMatch::Field(field)),
                None => table.rest.filter(|(names, _)| is_name(*names, step)).map(|(_, shape)| CatalogueMatch::Named(*shape)),
            },
            SettingShape::Named(names, inner) => Some(below(shape, names, inner, step)),
        };
        let Some(next) = next else { return Err(at) };
        shape = next.shape();
        found = Some(next);
    }
    found.ok_or(0)
}

/// The path that a wrong one may mean: the first step that is wrong as it may be meant, and what follows where that is there.
pub fn near_path(table: &'static SettingTable, path: &[String]) -> Option<String> {
    let wrong = find(table, path).err()?;
    let within = if wrong == 0 { table } else { table_of(find(table, &path[..wrong]).ok()?.shape()) };
    let (field, _) = within.near(&path[wrong])?;
    let mut meant = path.to_vec();
    meant[wrong] = field.name.to_owned();
    if find(table, &meant).is_err() {
        meant.truncate(wrong + 1);
    }
    Some(jovrik_toml::path_of(&meant))
}

/// A path with its chords spelled in one way.
pub fn normal_steps(table: &'static SettingTable, steps: &[String], lead: &str) -> Vec<String> {
    let mut shape = SettingShape::Table(table);
    let one = |step: &String| {
        let mut own = step.clone();
        shape = match shape {
            SettingShape::One(_) => shape,
            SettingShape::Table(table) => match (table.field(step), table.rest) {
                (Some(field), _) => field.shape,
                (None, Some((names, inner))) => {
                    if let KeySyntax::Spelled(grammar) = names
                        && let Some(name) = (grammar.normalise)(step, lead)
                    {
                        own = name;
                    }
                    *inner
                }
                (None, None) => SettingShape::Table(&SettingTable::NONE),
            },
            SettingShape::Named(names, inner) => below(shape, names, inner, step).shape(),
        };
        own
    };
    steps.iter().map(one).collect()
}

/// The path of the catalogue that leads to the same place: a person's names as `NAME`.
pub fn pattern_of<S: AsRef<str>>(table: &'static SettingTable, steps: &[S]) -> String {
    let mut shape = SettingShape::Table(table);
    let mut pattern = Vec::new();
    for step in steps {
        let (name, next) = match shape {
            SettingShape::One(_) => break,
            SettingShape::Table(table) => match (table.field(step.as_ref()), table.rest) {
                (Some(field), _) => (field.name, field.shape),
                (None, Some((_, shape))) => ("NAME", *shape),
                (None, None) => break,
            },
            SettingShape::Named(names, inner) => match below(shape, names, inner, step.as_ref()) {
                // Elements of elements are one NAME.
                CatalogueMatch::Named(next) if names == KeySyntax::Elements && pattern.last() == Some(&"NAME") => {
                    shape = next;
                    continue;
                }
                CatalogueMatch::Named(next) => ("NAME", next),
                CatalogueMatch::Field(field) => (field.name, field.shape),
            },
        };
        pattern.push(name);
        shape = next;
    }
    pattern.join(".")
}

/// Calls `visit` for every setting with its path; a person's names stand as `NAME`.
pub fn each(table: &'static SettingTable, visit: &mut dyn FnMut(&str, &'static SettingField)) {
    fn walk(path: &mut Vec<&'static str>, shape: SettingShape, visit: &mut dyn FnMut(&str, &'static SettingField)) {
        match shape {
            SettingShape::One(_) => {}
            SettingShape::Named(_, inner) => {
                path.push("NAME");
                walk(path, *inner, visit);
                path.pop();
            }
            SettingShape::Table(table) => {
                for field in table.fields {
                    path.push(field.name);
                    if matches!(field.shape, SettingShape::One(_)) {
                        visit(&path.join("."), field);
                    }
                    walk(path, field.shape, visit);
                    path.pop();
                }
                if let Some((_, shape)) = table.rest {
                    path.push("NAME");
                    walk(path, *shape, visit);
                    path.pop();
                }
            }
        }
    }
    walk(&mut Vec::new(), SettingShape::Table(table), visit);
}

#[doc(hidden)]
pub const fn kebab_start(name: &str) -> usize {
    let bytes = name.as_bytes();
    if bytes.len() > 2 && bytes[0] == b'r' && bytes[1] == b'#' { 2 } else { 0 }
}

#[doc(hidden)]
pub const fn kebab<const N: usize>(name: &str) -> [u8; N] {
    let bytes = name.as_bytes();
    let start = kebab_start(name);
    let mut out = [0; N];
    let mut at = 0;
    while at < N {
        let byte = bytes[start + at];
        out[at] = if byte == b'_' { b'-' } else { byte };
        at += 1;
    }
    out
}

#[doc(hidden)]
pub const fn text(bytes: &'static [u8]) -> &'static str {
    match std::str::from_utf8(bytes) {
        Ok(text) => text,
        Err(_) => "",
    }
}

/// The name of a field in kebab-case, as a constant.
#[doc(hidden)]
#[macro_export]
macro_rules! name_of {
    ($field:ident) => {{
        const RAW: &str = stringify!($field);
        const LEN: usize = RAW.len() - $crate::catalogue::kebab_start(RAW);
        const BYTES: [u8; LEN] = $crate::catalogue::kebab::<LEN>(RAW);
        $crate::catalogue::text(&BYTES)
    }};
}

/// Declares a table of settings: `/// help` and `name: Type = default,` for each; `#[also = "words"]` for what else it is called; `=> Login` where a change takes
/// more than a reload; `.. name: Chosen Type` at the end for names that a person chooses.
#[macro_export]
macro_rules! settings {
    (
        #[doc = $about:literal]
        pub struct $table:ident {
            $( #[doc = $help:literal] $( #[doc = $example:literal] )? $( #[also = $also:literal] )? $field:ident : $kind:ty $(= $default:expr)? $(=> $takes:ident)? , )*
            $( .. $rest:ident : $names:ident $rest_kind:ty , )?
        }
    ) => {
        #[doc = $about]
        #[derive(Debug, Clone, PartialEq)]
        pub struct $table {
            $( #[doc = $help] pub $field: $kind, )*
            $( #[doc = "Those that a person names."] pub $rest: $crate::NamedMap<$rest_kind>, )?
        }

        impl $crate::catalogue::Setting for $table {
            const SHAPE: $crate::catalogue::SettingShape = {
                const REST: Option<($crate::catalogue::KeySyntax, &'static $crate::catalogue::SettingShape)> =
                    $crate::rest!($($names $rest_kind)?);
                $crate::catalogue::SettingShape::Table(&$crate::catalogue::SettingTable {
                    help: $about,
                    fields: &[$( $crate::catalogue::SettingField {
                        name: $crate::name_of!($field),
                        help: $help,
                        also: $crate::also_of!($($also)?),
                        default: $crate::default_of!($($default)?),
                        takes: $crate::takes_of!($($takes)?),
                        example: $crate::example_of!($($example)?),
                        shape: <$kind as $crate::catalogue::Setting>::SHAPE,
                    }, )*],
                    rest: REST,
                })
            };

            fn read(reader: &mut $crate::SettingReader<'_>, at: &$crate::ReadCursor<'_>) -> Self {
                Self {
                    $( $field: $crate::catalogue::Setting::read(reader, &at.field(
                        $crate::name_of!($field),
                        $crate::default_of!($($default)?),
                    )), )*
                    $( $rest: <$crate::NamedMap<$rest_kind>>::read_rest(reader, at,
                        $crate::catalogue::table_of(<Self as $crate::catalogue::Setting>::SHAPE)), )?
                }
            }
        }
    };
}

#[doc(hidden)]
#[macro_export]
macro_rules! rest {
    () => {
        None
    };
    ($names:ident $kind:ty) => {
        Some(($crate::catalogue::KeySyntax::$names, &<$kind as $crate::catalogue::Setting>::SHAPE))
    };
}

#[doc(hidden)]
#[macro_export]
macro_rules! default_of {
    () => {
        None
    };
    ($default:expr) => {
        Some(stringify!($default))
    };
}

#[doc(hidden)]
#[macro_export]
macro_rules! example_of {
    () => {
        None
    };
    ($example:literal) => {
        Some($example)
    };
}

#[doc(hidden)]
#[macro_export]
macro_rules! also_of {
    () => {
        ""
    };
    ($also:literal) => {
        $also
    };
}

#[doc(hidden)]
#[macro_export]
macro_rules! takes_of {
    () => {
        $crate::catalogue::ReloadPolicy::Immediate
    };
    ($takes:ident) => {
        $crate::catalogue::ReloadPolicy::$takes
    };
}
