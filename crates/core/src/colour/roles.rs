//! Roles for the main colours of a picture, so that all text can be read.

use jovrik_schema::Colour;

use super::Cluster;
use crate::rice::{Palette, TerminalColours};
use crate::style::contrast;

/// Which end of the lightness the paper takes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ColourScheme {
    /// Light text on dark paper.
    Dark,
    /// Dark text on light paper.
    Light,
}

/// The least contrast of `ink` on paper, and of every other role that colours text.
const INK: f64 = 7.0;
const OTHER: f64 = 4.5;

/// Hues in turns: where a role looks for a colour, and what it takes when there is none.
const CALM: f32 = 0.68;
const GOOD: f32 = 0.39;
const WARN: f32 = 0.24;
const ALERT: f32 = 0.08;

/// Moves a colour's lightness away from the paper until it has the contrast.
fn legible(wanted: [f32; 4], paper: Colour, ground: ColourScheme, least: f64) -> Colour {
    let [light, mut chroma, hue, _] = wanted;
    let mut light = light;
    for _ in 0..200 {
        let colour = Colour::of_oklch([light, chroma, hue, 1.0]);
        // A little more than the least, so that rounding does not decide.
        if contrast(colour, paper) >= least + 0.05 {
            return colour;
        }
        light += if ground == ColourScheme::Dark { 0.01 } else { -0.01 };
        if !(0.0..=1.0).contains(&light) {
            light = light.clamp(0.0, 1.0);
            chroma *= 0.8;
        }
    }
    if ground == ColourScheme::Dark { Colour { r: 255, g: 255, b: 255, a: 255 } } else { Colour { a: 255, ..Colour::default() } }
}

/// How far two hues are apart, in turns.
fn hues_apart(a: f32, b: f32) -> f32 {
    let apart = (a - b).abs();
    apart.min(1.0 - apart)
}

/// A palette from the main colours of a picture; dark or light as the picture is, unless that is said.
pub fn palette_of(clusters: &[Cluster], ground: Option<ColourScheme>) -> Palette {
    let lch: Vec<([f32; 4], f32)> = clusters.iter().map(|cluster| (cluster.colour.to_oklch(), cluster.share)).collect();
    let mean: f32 = lch.iter().map(|(lch, share)| lch[0] * share).sum();
    let ground = ground.unwrap_or(if mean < 0.55 { ColourScheme::Dark } else { ColourScheme::Light });
    // The paper: a large and quiet colour at the right end, made darker or lighter still.
    let suits = |(lch, share): &([f32; 4], f32)| {
        let end = if ground == ColourScheme::Dark { 1.0 - lch[0] } else { lch[0] };
        end * 2.0 + share.sqrt() - lch[1]
    };
    let base = lch.iter().max_by(|a, b| suits(a).total_cmp(&suits(b))).map_or([0.5, 0.0, 0.0, 1.0], |(lch, _)| *lch);
    let tint = base[1].min(0.03);
    let (paper_light, step) =
        if ground == ColourScheme::Dark { (base[0].clamp(0.16, 0.24), 1.0) } else { (base[0].clamp(0.94, 0.975), -1.0) };
    let at = |light: f32, chroma: f32| [light, chroma, base[2], 1.0];
    let paper = Colour::of_oklch(at(paper_light, tint));
    let raise = Colour::of_oklch(at(paper_light + step * 0.045, tint));
    let line = Colour::of_oklch(at(paper_light + step * 0.14, tint * 1.2));
    let muted_light = if ground == ColourScheme::Dark { 0.64 } else { 0.5 };
    let muted = legible(at(muted_light, tint), paper, ground, OTHER + 0.5);
    let ink = legible(at(if ground == ColourScheme::Dark { 0.92 } else { 0.27 }, tint.min(0.02)), paper, ground, INK);
    // The liveliest colour is where one is; the states take what is near to what they are known by.
    let lively = |(lch, share): &([f32; 4], f32)| lch[1] * (0.2 + share.sqrt());
    // Red says that something is wrong: another colour is taken for here, where there is one.
    let colours = || lch.iter().filter(|(lch, _)| lch[1] > 0.02);
    let calmer = colours().filter(|(lch, _)| hues_apart(lch[2], ALERT) > 0.07).max_by(|a, b| lively(a).total_cmp(&lively(b)));
    let accent = calmer.or_else(|| colours().max_by(|a, b| lively(a).total_cmp(&lively(b))));
    let text_light = if ground == ColourScheme::Dark { 0.78 } else { 0.48 };
    let accent = accent.map_or([text_light, 0.1, CALM - 0.25, 1.0], |(lch, _)| *lch);
    let chroma = accent[1].clamp(0.06, 0.16);
    let role = |hue: f32| {
        let near = lch.iter().filter(|(lch, _)| lch[1] > 0.03 && hues_apart(lch[2], hue) < 0.09);
        let found = near.max_by(|a, b| lively(a).total_cmp(&lively(b))).map(|(lch, _)| lch[2]);
        legible([text_light, chroma.max(0.09), found.unwrap_or(hue), 1.0], paper, ground, OTHER)
    };
    let accent_light = if ground == ColourScheme::Dark { accent[0].clamp(0.7, 0.86) } else { accent[0].clamp(0.4, 0.52) };
    Palette {
        paper,
        raise,
        line,
        muted,
        ink,
        accent: legible([accent_light, accent[1].min(0.17), accent[2], 1.0], paper, ground, OTHER),
        calm: role(CALM),
        good: role(GOOD),
        warn: role(WARN),
        alert: role(ALERT),
        term: TerminalColours::default(),
    }
}
