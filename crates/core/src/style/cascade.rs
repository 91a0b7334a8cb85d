//! From what is said of elements to what one of them looks like.

use jovrik_schema::{Colour, Points, Px};
use jovrik_values::{Align, BorderStyle, Corners, ElementState, Fill, Opacity, Sides};

use crate::rice::{Rice, StyleRule};
use crate::scene::TextStyle;

/// One element as it is drawn: its kind, its name, and the states that it is in. From the outermost to the one meant.
#[derive(Debug, Clone, Copy)]
pub struct StyledElement<'a> {
    /// The kind: `bar.module`.
    pub kind: &'a str,
    /// Its name, or nothing.
    pub name: &'a str,
    /// Its states, the strongest first.
    pub states: &'a [ElementState],
}

/// What an element looks like.
#[derive(Debug, Clone, PartialEq)]
pub struct ComputedStyle {
    /// The colour of its text.
    pub ink: Colour,
    /// How its text is set.
    pub face: TextStyle,
    /// Where its text stands.
    pub align: Align,
    /// What it is filled with.
    pub fill: Fill,
    /// The line along its edge.
    pub line: BorderStyle,
    /// How round its corners are.
    pub radius: Corners,
    /// From its edge to what is in it.
    pub pad: Sides,
    /// Between the things in it.
    pub gap: f32,
    /// The least room it takes.
    pub min: f32,
    /// The most room it takes.
    pub max: f32,
}

impl ComputedStyle {
    /// The same on a monitor of a scale.
    #[must_use]
    pub fn scaled(self, by: f32) -> ComputedStyle {
        if by == 1.0 {
            return self;
        }
        let px = |pixels: i32| (pixels as f32 * by).round() as i32;
        let Sides { top, right, bottom, left } = self.pad;
        ComputedStyle {
            face: TextStyle { points: self.face.points * by, ..self.face },
            line: BorderStyle { width: px(self.line.width), ..self.line },
            radius: Corners(self.radius.0.map(px)),
            pad: Sides { top: px(top), right: px(right), bottom: px(bottom), left: px(left) },
            gap: self.gap * by,
            min: self.min * by,
            max: self.max * by,
            ..self
        }
    }
}

/// One rule that speaks of an element.
#[derive(Debug, Clone, PartialEq)]
pub struct MatchedRule<'a> {
    /// The path of the element that it was said of: `bar.module.warn`.
    pub path: &'a str,
    /// What was said.
    pub rule: &'a StyleRule,
    /// Whether it comes from the element around the one meant.
    pub from_outside: bool,
}

/// Hands over the paths that speak of one element by itself, the strongest first: any state beats every plain one, then the
/// strength of the state, then the longer name.
fn each_path(kin: &StyledElement<'_>, one: &mut dyn FnMut(&str)) {
    let mut path = String::with_capacity(64);
    let mut hand = |steps: &[&str]| {
        path.clear();
        for step in steps.iter().filter(|step| !step.is_empty()) {
            if !path.is_empty() {
                path.push('.');
            }
            path.push_str(step);
        }
        one(&path);
    };
    for state in ElementState::ALL.into_iter().filter(|state| kin.states.contains(state)) {
        if !kin.name.is_empty() {
            hand(&[kin.kind, kin.name, state.word()]);
        }
        hand(&[kin.kind, state.word()]);
    }
    if !kin.name.is_empty() {
        hand(&[kin.kind, kin.name]);
    }
    hand(&[kin.kind]);
}

/// All rules that speak of the last of a chain, the strongest first; those of the elements around it, which only its
/// text takes over, after them.
pub fn said<'a>(rice: &'a Rice, chain: &[StyledElement<'_>]) -> Vec<MatchedRule<'a>> {
    let mut said = Vec::new();
    for (nth, kin) in chain.iter().rev().enumerate() {
        each_path(kin, &mut |path| {
            if let Some((path, rule)) = rice.style.0.get_key_value(path) {
                said.push(MatchedRule { path, rule, from_outside: nth > 0 });
            }
        });
    }
    said
}

/// What the last of a chain looks like.
pub fn resolve(rice: &Rice, chain: &[StyledElement<'_>]) -> ComputedStyle {
    let said = said(rice, chain);
    fn text<T>(said: &[MatchedRule<'_>], get: impl Fn(&StyleRule) -> Option<T>) -> Option<T> {
        said.iter().find_map(|said| get(said.rule))
    }
    fn own<T>(said: &[MatchedRule<'_>], get: impl Fn(&StyleRule) -> Option<T>) -> Option<T> {
        said.iter().filter(|said| !said.from_outside).find_map(|said| get(said.rule))
    }
    let Opacity(cover) = own(&said, |rule| rule.opacity).unwrap_or_default();
    let type_ = &rice.r#type;
    let line = own(&said, |rule| rule.line.clone()).unwrap_or_default();
    ComputedStyle {
        ink: text(&said, |rule| rule.ink).unwrap_or(rice.palette.current.ink).faded(cover),
        face: TextStyle {
            family: text(&said, |rule| rule.font.clone()).unwrap_or_else(|| type_.text.clone()),
            points: text(&said, |rule| rule.size).map_or(type_.size.0, |Points(size)| size),
            bold: text(&said, |rule| rule.bold).unwrap_or_default(),
            underline: text(&said, |rule| rule.underline).unwrap_or_default(),
            mono: false,
        },
        align: text(&said, |rule| rule.align).unwrap_or_default(),
        fill: own(&said, |rule| rule.fill.clone()).unwrap_or(Fill::NONE).faded(cover),
        line: BorderStyle { fill: line.fill.faded(cover), ..line },
        radius: own(&said, |rule| rule.radius).unwrap_or_default(),
        pad: own(&said, |rule| rule.pad).unwrap_or_default(),
        gap: own(&said, |rule| rule.gap).map_or(0.0, |Px(gap)| gap as f32),
        min: own(&said, |rule| rule.min).map_or(0.0, |Px(min)| min as f32),
        max: own(&said, |rule| rule.max).map_or(f32::MAX, |Px(max)| max as f32),
    }
}
