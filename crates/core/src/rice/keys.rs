//! Key bindings of the desk.

use super::catalogue::{Allowed, Kind, Names, OneValue, Setting, Shape, settings};
use super::kinds::{Inline, Span, Weight};
use crate::desk::Action;
use crate::load::{self, At, Node, Reader, Tree, Value, Wrong};

/// What a chord does.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Binding {
    /// The action.
    pub action: Action,
    /// What a person says of it.
    pub note: Option<String>,
    /// Whether settling may not move it.
    pub fixed: bool,
}

impl OneValue for Binding {
    const KIND: Kind =
        Kind { name: "binding", unit: "", allowed: Allowed::Any, example: "{ do = \"close\", note = \"Close the window\" }" };
    fn from_node(node: &Node, reader: &Reader<'_>) -> Result<Self, Wrong> {
        let action = |node: &Node| {
            let text = node.text().ok_or_else(|| Wrong::kind("expected an action such as \"open terminal\""))?;
            Action::parse(text).map_err(|unknown| unknown.wrong(text).within(node))
        };
        if let Value::Text(_) = node.value {
            return Ok(Binding { action: action(node)?, note: None, fixed: false });
        }
        let inline =
            Inline::of(node, &["do", "note", "fixed"], "expected an action, or { do = \"close\", note = \"…\", fixed = true }")?;
        let what = inline.node("do").ok_or_else(|| Wrong::kind("do = \"an action\" is missing"))?;
        Ok(Binding {
            action: action(what)?,
            note: inline.get("note", reader)?,
            fixed: inline.get("fixed", reader)?.unwrap_or_default(),
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
    /// bindings of the desk, and what their keys mean
    pub struct Keys {
        /// the modifier that Lead stands for
        lead: Lead = "Super",
        /// layouts that checks hold the bindings to
        /// ["us", "fr"]
        must_work_on: Vec<String> = "=keyboard.layouts" => Later,
        /// how long an unfinished sequence is waited for
        sequence_wait: Span = "1s",
        /// what settling weighs
        cost: KeyCost,
        /// the desk's bindings
        desk: Chords,
    }
}

/// The modifier that `Lead` stands for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Lead(pub crate::keys::Modifier);

impl OneValue for Lead {
    const KIND: Kind = Kind { name: "modifier", unit: "", allowed: Allowed::OneOf(crate::keys::Modifier::LEADS), example: "" };
    fn from_node(node: &Node, _: &Reader<'_>) -> Result<Self, Wrong> {
        let words = crate::keys::Modifier::LEADS;
        let word = node.text().filter(|word| words.contains(word));
        word.and_then(crate::keys::Modifier::parse).map(Lead).ok_or_else(|| Wrong::not_one_of(node, words))
    }
}

/// A binding with its place in the rice.
#[derive(Debug, Clone, PartialEq)]
pub struct BindingAt {
    /// Its chords, normalised.
    pub keys: crate::keys::Keys,
    /// Its chords as a person wrote them.
    pub written: String,
    /// What it does.
    pub binding: Binding,
    /// The bytes of its key.
    pub place: load::Span,
    /// The bytes of its value.
    pub value: load::Span,
    /// Whether it holds: a later one of the same layer may win over it.
    pub holds: bool,
}

/// Bindings in the order of the rice; a chord that one layer binds twice stands twice.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Chords(pub Vec<BindingAt>);

impl Setting for Chords {
    const SHAPE: Shape = Shape::Named(Names::Chords, &<Binding as Setting>::SHAPE);

    fn read(reader: &mut Reader<'_>, at: &At<'_>) -> Self {
        let mut bindings = Vec::new();
        let Some(branch) = at.tree.and_then(Tree::branch) else { return Self(bindings) };
        let lead = reader.lead.clone();
        for (name, tree) in &branch.entries {
            let (Some(leaf), Ok(keys)) = (tree.leaf(), crate::keys::Keys::parse(name, &lead)) else { continue };
            let rivals = leaf.over.iter().filter(|(layer, _)| *layer == leaf.layer).map(|(_, node)| (node, false));
            for (node, holds) in std::iter::once((&leaf.node, true)).chain(rivals) {
                let binding: Binding = reader.value_of(&at.field(name, None), Some(node));
                let raw = reader.sources.slice(node.key);
                let written = raw.trim_matches(['"', '\'']);
                let written = if written.is_empty() { name.as_str() } else { written };
                bindings.push(BindingAt {
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
