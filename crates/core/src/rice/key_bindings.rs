//! Key bindings: of the desk, and of everything else that reads the keyboard.

use std::fmt::Display;
use std::time::Duration;

use jovrik_schema::catalogue::{
    AtomicSetting, Capability, InlineField, KeySyntax, ReloadPolicy, Setting, SettingField, SettingShape, SettingTable,
    ValueConstraint, ValueType,
};
use jovrik_schema::{InlineTable, NamedMap, ReadCursor, SettingReader, TimeSpan, Tree, Weight, named_value, settings};
use jovrik_toml::{SpannedValue, TomlValue, ValueError};
use jovrik_values::WindowPattern;
use jovrik_values::action::Action;
use jovrik_values::chord::{CHORD_NAMES, ChordSequence as ChordKeys, Modifier, Modifiers};

use super::launcher::LauncherCommand;

named_value! {
    /// Which end of a press counts.
    pub enum BindingTrigger as "moment" {
        /// When the keys go down.
        Press = "press",
        /// When they come up.
        Release = "release",
    }
}

named_value! {
    /// What a key does in a mode that has no binding for it.
    pub enum UnboundKeyPolicy as "way" {
        /// Nothing, and nobody else gets it.
        Eat = "eat",
        /// It goes on to whoever would have got it.
        Pass = "pass",
        /// It leaves the mode, and nobody gets it.
        Leave = "leave",
    }
}

/// What a binding that is written as a table may say.
const fn binding_fields(does: InlineField) -> [InlineField; 5] {
    [
        does,
        InlineField::new("note", "what it is for, as the sheet says it", &String::KIND).such("\"Close the window\""),
        InlineField::new("fixed", "whether keys settle may not move it", &bool::KIND),
        InlineField::new("on", "which end of the press counts", &BindingTrigger::KIND),
        InlineField::new("repeat", "whether it is done again while the keys are held", &bool::KIND),
    ]
}

/// What a binding does: an action of the desk, or free words where another program acts.
pub trait BindingAction: Clone + PartialEq + Default + Display + 'static {
    /// The type of its bindings.
    const KIND: ValueType;
    /// Reads it.
    fn read(node: &SpannedValue) -> Result<Self, ValueError>;
}

impl BindingAction for Action {
    const KIND: ValueType = ValueType {
        name: ValueType::BINDING,
        unit: "",
        allowed: ValueConstraint::Any,
        example: "{ do = \"close\", note = \"Close the window\" }",
        reach: Capability::Execute,
        fields: &binding_fields(InlineField::new("do", "an action, or a list of them", &jovrik_values::ActionText::KIND)),
    };

    fn read(node: &SpannedValue) -> Result<Self, ValueError> {
        if let TomlValue::Array(items) = &node.value {
            let all = items.iter().map(Self::read).collect::<Result<Vec<Action>, ValueError>>()?;
            return if all.is_empty() {
                Err(ValueError::kind("the list names no action").within(node))
            } else {
                Ok(Action::All(all))
            };
        }
        let text =
            node.text().ok_or_else(|| ValueError::kind("expected an action such as \"open terminal\", or a list of them"))?;
        Action::parse(text).map_err(|unknown| unknown.wrong(text).within(node))
    }
}

/// What another program does, in free words.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct ExternalAction(pub String);

impl Display for ExternalAction {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(&self.0)
    }
}

impl BindingAction for ExternalAction {
    const KIND: ValueType = ValueType {
        name: ValueType::SAYS,
        unit: "",
        allowed: ValueConstraint::Any,
        example: "\"next match\"",
        reach: Capability::None,
        fields: &binding_fields(InlineField::new("do", "what it does there, in words", &String::KIND).such("\"next match\"")),
    };

    fn read(node: &SpannedValue) -> Result<Self, ValueError> {
        node.text()
            .map(|text| ExternalAction(text.to_owned()))
            .ok_or_else(|| ValueError::kind("expected what it does, such as \"next match\""))
    }
}

/// What a chord does.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Binding<D = Action> {
    /// What it does.
    pub action: D,
    /// What a person says of it.
    pub note: Option<String>,
    /// Whether settling may not move it.
    pub fixed: bool,
    /// Which end of the press counts.
    pub on: BindingTrigger,
    /// Whether it is done again while the keys are held.
    pub repeat: bool,
}

impl<D: BindingAction> AtomicSetting for Binding<D> {
    const KIND: ValueType = D::KIND;
    fn from_node(node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Self, ValueError> {
        if let TomlValue::String(_) | TomlValue::Array(_) = node.value {
            return Ok(Binding { action: D::read(node)?, repeat: true, ..Binding::default() });
        }
        let expected = "expected an action, or { do = \"close\", note = \"…\", fixed = true }";
        let inline = InlineTable::of(node, D::KIND.fields, expected)?;
        let what = inline.node("do").ok_or_else(|| ValueError::kind("do = \"an action\" is missing"))?;
        let on: BindingTrigger = inline.get("on", reader)?.unwrap_or_default();
        Ok(Binding {
            action: D::read(what)?,
            note: inline.get("note", reader)?,
            fixed: inline.get("fixed", reader)?.unwrap_or_default(),
            on,
            repeat: inline.get("repeat", reader)?.unwrap_or(on == BindingTrigger::Press),
        })
    }
}

settings! {
    /// what settling weighs
    pub struct KeyCost {
        /// moving a binding at all
        r#move: Weight = 1.0,
        /// moving what a person wrote
        written: Weight = 0.5,
        /// a modifier more or fewer
        modifier: Weight = 2.0,
        /// one modifier for another
        swap: Weight = 1.5,
        /// more than three modifiers
        crowd: Weight = 4.0,
        /// a key without a place, such as a media key
        nowhere: Weight = 8.0,
        /// taken off when the key is a first letter
        letter: Weight = 1.0,
        /// the first chord of a sequence changes
        first: Weight = 3.0,
    }
}

settings! {
    /// key bindings, and what their keys mean
    pub struct KeysSettings {
        /// the modifier that Lead stands for
        #[also = "modifier, super key, windows key, mod key, main modifier"]
        lead: Lead = "Super",
        /// layouts that checks hold the bindings to
        /// ["us", "fr"]
        #[also = "keyboard layouts"]
        must_work_on: Vec<String> = "=keyboard.layouts",
        /// how long an unfinished sequence is waited for
        #[also = "timeout, chord timeout, key sequence"]
        sequence_wait: TimeSpan = "1s",
        /// what settling weighs
        cost: KeyCost,
        /// the desk's bindings
        desk: ScopeBindings<Action>,
        /// the keys of the launcher while it is open
        launcher: ScopeBindings<LauncherCommand>,
        .. scopes: Chosen ScopeBindings<ExternalAction>,
    }
}

settings! {
    /// another reader of the keyboard, such as a program in a terminal
    pub struct ScopeSettings {
        /// the program that must have the focus, or a pattern of its app name
        /// "terminal"
        inside: Option<WindowPattern>,
        /// its plain bindings come after these keys
        /// "Ctrl+space"
        prefix: Option<Prefix>,
        /// the scope that is asked before it
        /// "mux"
        after: Option<String>,
        /// a file of what the program binds by itself
        /// "art/editor-keys.toml"
        known: Option<String>,
    }
}

/// The keys before the bindings of a scope.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Prefix(pub ChordKeys);

impl AtomicSetting for Prefix {
    const KIND: ValueType = ValueType {
        name: "chord",
        unit: "",
        allowed: ValueConstraint::Any,
        example: "\"Ctrl+space\"",
        reach: Capability::None,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Self, ValueError> {
        let text = node.text().ok_or_else(|| ValueError::kind("expected a chord such as \"Ctrl+space\""))?;
        ChordKeys::parse(text, &reader.lead).map(Prefix).map_err(|spelling| spelling.wrong())
    }
}

/// The bindings of one mode.
#[derive(Debug, Clone, PartialEq)]
pub struct ModeBindings<D: BindingAction> {
    /// What an unbound key does.
    pub others: UnboundKeyPolicy,
    /// Its bindings.
    pub chords: BindingList<D>,
}

/// The bindings of one scope: the plain ones, and those of its modes.
#[derive(Debug, Clone, PartialEq)]
pub struct ScopeBindings<D: BindingAction> {
    /// Bindings outside of any mode.
    pub plain: BindingList<D>,
    /// Its modes.
    pub modes: NamedMap<ModeBindings<D>>,
}

impl<D: BindingAction> Default for ScopeBindings<D> {
    fn default() -> Self {
        Self { plain: BindingList(Vec::new()), modes: NamedMap::default() }
    }
}

impl<D: BindingAction> Setting for ModeBindings<D> {
    const SHAPE: SettingShape = SettingShape::Table(&SettingTable {
        help: "a mode: bindings that replace the plain ones until it is left",
        fields: &[SettingField {
            name: "others",
            help: "what an unbound key does here; media keys always work",
            also: "unbound keys, pass keys through",
            default: Some("\"eat\""),
            takes: ReloadPolicy::Immediate,
            example: None,
            shape: <UnboundKeyPolicy as Setting>::SHAPE,
        }],
        rest: Some((KeySyntax::Spelled(CHORD_NAMES), &<Binding<D> as Setting>::SHAPE)),
    });

    fn read(reader: &mut SettingReader<'_>, at: &ReadCursor<'_>) -> Self {
        Self { others: Setting::read(reader, &at.field("others", Some("\"eat\""))), chords: BindingList::read(reader, at) }
    }
}

impl<D: BindingAction> Setting for ScopeBindings<D> {
    const SHAPE: SettingShape = SettingShape::Table(&SettingTable {
        help: "the bindings of a scope",
        fields: &[SettingField {
            name: "modes",
            help: "its modes",
            also: "key mode, layer",
            default: None,
            takes: ReloadPolicy::Immediate,
            example: None,
            shape: <NamedMap<ModeBindings<D>> as Setting>::SHAPE,
        }],
        rest: Some((KeySyntax::Spelled(CHORD_NAMES), &<Binding<D> as Setting>::SHAPE)),
    });

    fn read(reader: &mut SettingReader<'_>, at: &ReadCursor<'_>) -> Self {
        Self { plain: BindingList::read(reader, at), modes: Setting::read(reader, &at.field("modes", None)) }
    }
}

/// The modifier that `Lead` stands for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Lead(pub Modifier);

impl AtomicSetting for Lead {
    const KIND: ValueType = ValueType {
        name: "modifier",
        unit: "",
        allowed: ValueConstraint::OneOf(Modifier::LEADS),
        example: "",
        reach: Capability::None,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, _: &SettingReader<'_>) -> Result<Self, ValueError> {
        let words = Modifier::LEADS;
        let word = node.text().filter(|word| words.contains(word));
        word.and_then(Modifier::parse).map(Lead).ok_or_else(|| ValueError::not_one_of(node, words))
    }
}

/// A binding with its place in the rice.
#[derive(Debug, Clone, PartialEq)]
pub struct SpannedBinding<D = Action> {
    /// Its chords, normalised.
    pub keys: ChordKeys,
    /// Its chords as a person wrote them.
    pub written: String,
    /// What it does.
    pub binding: Binding<D>,
    /// The bytes of its key.
    pub place: jovrik_text::Span,
    /// The bytes of its value.
    pub value: jovrik_text::Span,
    /// Whether it holds: a later one of the same layer may win over it.
    pub holds: bool,
}

/// Bindings in the order of the rice; a chord that one layer binds twice stands twice.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct BindingList<D = Action>(pub Vec<SpannedBinding<D>>);

/// What else stands in a table of bindings.
const NO_CHORDS: [&str; 2] = ["others", "modes"];

impl<D: BindingAction> BindingList<D> {
    /// Reads the chords of a table; what else stands in it is no chord.
    fn read(reader: &mut SettingReader<'_>, at: &ReadCursor<'_>) -> Self {
        let mut bindings = Vec::new();
        let Some(branch) = at.tree.and_then(Tree::branch) else { return Self(bindings) };
        let lead = reader.lead.clone();
        for (name, tree) in &branch.entries {
            let Some(leaf) = tree.leaf() else { continue };
            // Of one whose keys are no chord, what it does is judged all the same.
            let Ok(keys) = ChordKeys::parse(name, &lead) else {
                if NO_CHORDS.contains(&name.as_str()) {
                    continue;
                }
                let _: Binding<D> = reader.value_of(&at.field(name, None), Some(&leaf.node));
                continue;
            };
            let rivals = leaf.over.iter().filter(|(layer, _)| *layer == leaf.layer).map(|(_, node)| (node, false));
            for (node, holds) in std::iter::once((&leaf.node, true)).chain(rivals) {
                let binding: Binding<D> = reader.value_of(&at.field(name, None), Some(node));
                let raw = reader.sources.slice(node.key);
                let written = raw.trim_matches(['"', '\'']);
                let written = if written.is_empty() { name.as_str() } else { written };
                bindings.push(SpannedBinding {
                    keys: keys.clone(),
                    written: written.to_owned(),
                    binding,
                    place: node.key,
                    value: node.span,
                    holds,
                });
            }
        }
        // The tree is in the order of first naming; people count lines.
        bindings.sort_by_key(|binding| binding.place);
        Self(bindings)
    }
}

impl KeysSettings {
    /// The modifiers that `Lead` is.
    pub fn lead_held(&self) -> Modifiers {
        Modifiers::default().with(self.lead.0)
    }

    /// How long an unfinished sequence is waited for.
    pub fn wait(&self) -> Duration {
        self.sequence_wait.0
    }

    /// How many bindings there are, of all scopes and modes.
    pub fn count(&self) -> usize {
        fn of<D: BindingAction>(keys: &ScopeBindings<D>) -> usize {
            keys.plain.0.len() + keys.modes.values().map(|mode| mode.chords.0.len()).sum::<usize>()
        }
        of(&self.desk) + of(&self.launcher) + self.scopes.values().map(of).sum::<usize>()
    }

    /// The bindings of the desk, plain and in modes.
    pub fn of_desk(&self) -> impl Iterator<Item = &SpannedBinding> {
        self.desk.plain.0.iter().chain(self.desk.modes.values().flat_map(|mode| &mode.chords.0))
    }
}
