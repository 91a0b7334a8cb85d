//! Where outputs lie, and how they are lit, as a rice wants it: a plan for whoever can set them.

use jovrik_schema::Glob;
use jovrik_values::{PixelRect, Side};

use crate::desk::MonitorFacts;
use crate::rice::{MonitorMode, MonitorPosition, MonitorRule, OutputRotation, Rice};

/// A mode that an output has.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct OutputMode {
    /// Its number, given by the stage.
    pub id: u32,
    /// Pixels across and down.
    pub size: (i32, i32),
    /// Pictures a second.
    pub rate: f64,
}

/// How an output is lit.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct OutputConfig {
    /// Its mode.
    pub mode: OutputMode,
    /// Its upper left corner, in pixels of the screen.
    pub at: (i32, i32),
    /// How far it is turned.
    pub rotate: OutputRotation,
}

impl OutputConfig {
    /// How much of the screen it shows.
    pub fn size(&self) -> (i32, i32) {
        let (w, h) = self.mode.size;
        if matches!(self.rotate, OutputRotation::Left | OutputRotation::Right) { (h, w) } else { (w, h) }
    }
}

/// What a stage tells of an output that something is connected to.
#[derive(Debug, Clone, PartialEq)]
pub struct Output {
    /// Its name.
    pub name: String,
    /// Maker, model and number of what is connected, as far as it says.
    pub maker: String,
    /// The modes it has, the preferred one first.
    pub modes: Vec<OutputMode>,
    /// How it is lit, if it is.
    pub lit: Option<OutputConfig>,
    /// Whether programs take it for the main one.
    pub primary: bool,
}

impl Output {
    /// Whether a pattern of a rice means it: by its name, by its maker, or by its place.
    fn is(&self, pattern: &Glob) -> bool {
        let (x, y) = self.lit.map_or((-1, -1), |lit| lit.at);
        let facts =
            MonitorFacts { maker: self.maker.clone(), ..MonitorFacts::new(self.name.clone(), PixelRect::new(x, y, 1, 1)) };
        facts.is(pattern)
    }
}

/// How all outputs are to be.
#[derive(Debug, Clone, PartialEq)]
pub struct DisplayConfig {
    /// Each output by its name, and how it is to be lit.
    pub outputs: Vec<(String, Option<OutputConfig>)>,
    /// The main one.
    pub primary: Option<String>,
    /// What could not be done as the rice says.
    pub amiss: Vec<String>,
}

impl DisplayConfig {
    /// The outputs as they are.
    pub fn of(outputs: &[Output]) -> DisplayConfig {
        DisplayConfig {
            outputs: outputs.iter().map(|output| (output.name.clone(), output.lit)).collect(),
            primary: outputs.iter().find(|output| output.primary).map(|output| output.name.clone()),
            amiss: Vec::new(),
        }
    }

    /// The size of the screen that holds all of it.
    pub fn size(&self) -> (i32, i32) {
        let lit = self.outputs.iter().filter_map(|(_, lit)| *lit);
        lit.map(|lit| (lit.at.0 + lit.size().0, lit.at.1 + lit.size().1)).fold((1, 1), |(w, h), (x, y)| (w.max(x), h.max(y)))
    }

    /// Whether another plan is the same, whatever is amiss in them.
    pub fn same(&self, other: &DisplayConfig) -> bool {
        (&self.outputs, &self.primary) == (&other.outputs, &other.primary)
    }
}

/// Whether a rule says how its outputs are lit, and where they lie.
pub fn arranges(rule: &MonitorRule) -> bool {
    let MonitorRule { mode, at, rotate, primary, mirrors, off, .. } = rule;
    mode.is_some() || at.is_some() || *rotate != OutputRotation::default() || *primary || mirrors.is_some() || *off
}

/// The mode of an output that a rice asks for: its size, and the rate that is nearest, else the best.
fn mode_of(output: &Output, wanted: &MonitorMode) -> Option<OutputMode> {
    let fits = output.modes.iter().filter(|mode| mode.size == wanted.size);
    let away = |mode: &&OutputMode| wanted.rate.map_or(-mode.rate, |rate| (mode.rate - rate).abs());
    fits.min_by(|a, b| away(a).total_cmp(&away(b))).copied()
}

/// Where one area of a size lies beside another.
fn beside(side: Side, (x, y): (i32, i32), (w, h): (i32, i32), own: (i32, i32)) -> (i32, i32) {
    match side {
        Side::Left => (x - own.0, y),
        Side::Right => (x + w, y),
        Side::Top => (x, y - own.1),
        Side::Bottom => (x, y + h),
    }
}

/// How the outputs are to be lit as a rice says; nothing when it says nothing of that.
///
/// What the rice does not say stays as it is; an output that nothing is known of is lit at the right of the others. All of
/// them dark is never planned.
pub fn plan(rice: &Rice, outputs: &[Output]) -> Option<DisplayConfig> {
    let rule = |output: &Output| rice.monitor.iter().find(|(_, rule)| output.is(&rule.r#match));
    if !outputs.iter().filter_map(rule).any(|(_, rule)| arranges(rule)) {
        return None;
    }
    let mut amiss = Vec::new();
    let mut lit: Vec<Option<OutputConfig>> = Vec::with_capacity(outputs.len());
    for output in outputs {
        let rule = rule(output).map(|(_, rule)| rule);
        let usual = || output.lit.map(|lit| lit.mode).or_else(|| output.modes.first().copied());
        let asked = rule.and_then(|rule| rule.mode.as_ref());
        let mode = asked.and_then(|wanted| mode_of(output, wanted));
        if let (Some(wanted), None) = (asked, mode) {
            amiss.push(format!("{} has no mode {}x{}", output.name, wanted.size.0, wanted.size.1));
        }
        let rotate = rule.map_or(output.lit.map_or(OutputRotation::Upright, |lit| lit.rotate), |rule| rule.rotate);
        let dark = rule.is_some_and(|rule| rule.off);
        lit.push(mode.or_else(usual).filter(|_| !dark).map(|mode| OutputConfig { mode, at: (0, 0), rotate }));
    }
    if lit.iter().all(Option::is_none)
        && let Some((at, output)) = outputs.iter().enumerate().find(|(_, output)| !output.modes.is_empty())
    {
        amiss.push(format!("{} stays lit: all would be dark", output.name));
        lit[at] = Some(OutputConfig { mode: output.modes[0], at: (0, 0), rotate: OutputRotation::Upright });
    }
    place(rice, outputs, &mut lit, &mut amiss);
    let left = lit.iter().flatten().map(|lit| lit.at.0).min().unwrap_or(0);
    let top = lit.iter().flatten().map(|lit| lit.at.1).min().unwrap_or(0);
    lit.iter_mut().flatten().for_each(|lit| lit.at = (lit.at.0 - left, lit.at.1 - top));
    let first = |wanted: &dyn Fn(&Output) -> bool| {
        outputs.iter().zip(&lit).find(|(output, lit)| lit.is_some() && wanted(output)).map(|(output, _)| output.name.clone())
    };
    let primary = first(&|output| rule(output).is_some_and(|(_, rule)| rule.primary)).or_else(|| first(&|output| output.primary));
    let outputs = outputs.iter().map(|output| output.name.clone()).zip(lit).collect();
    Some(DisplayConfig { outputs, primary, amiss })
}

/// Puts each output where it is to lie: those with a place of their own first, then those beside others, as often as
/// another one has got its place.
fn place(rice: &Rice, outputs: &[Output], lit: &mut [Option<OutputConfig>], amiss: &mut Vec<String>) {
    let rule = |at: usize| rice.monitor.values().find(|rule| outputs[at].is(&rule.r#match));
    let named = |name: &str| {
        let output = outputs.iter().position(|output| output.name == name);
        let by_rule = || {
            let rule = rice.monitor.get(name)?;
            outputs.iter().position(|output| output.is(&rule.r#match))
        };
        output.or_else(by_rule)
    };
    let mut placed = vec![false; outputs.len()];
    for at in 0..outputs.len() {
        let Some(own) = lit[at].as_mut() else { continue };
        let place = rule(at).and_then(|rule| rule.at.clone()).unwrap_or_default();
        let mirrors = rule(at).is_some_and(|rule| rule.mirrors.is_some());
        match (place, outputs[at].lit) {
            _ if mirrors => {}
            (MonitorPosition::At(x, y), _) => (own.at, placed[at]) = ((x, y), true),
            (MonitorPosition::AsItIs, Some(now)) => (own.at, placed[at]) = (now.at, true),
            _ => {}
        }
    }
    loop {
        let mut moved = false;
        for at in (0..outputs.len()).filter(|at| lit[*at].is_some()).collect::<Vec<_>>() {
            if placed[at] {
                continue;
            }
            let (mirrored, place) = rule(at).map(|rule| (rule.mirrors.clone(), rule.at.clone())).unwrap_or_default();
            let to = match (mirrored, place) {
                (Some(other), _) => named(&other).filter(|to| placed[*to]).and_then(|to| lit[to]).map(|to| to.at),
                (None, Some(MonitorPosition::Beside(side, other))) => {
                    let to = named(&other).filter(|to| placed[*to] && *to != at).and_then(|to| lit[to]);
                    to.zip(lit[at]).map(|(to, own)| beside(side, to.at, to.size(), own.size()))
                }
                _ => None,
            };
            if let (Some(to), Some(own)) = (to, lit[at].as_mut()) {
                (own.at, placed[at], moved) = (to, true, true);
            }
        }
        if moved {
            continue;
        }
        // Nobody else has a place: the next one lies at the right of all.
        let Some(next) = (0..outputs.len()).find(|at| !placed[*at] && lit[*at].is_some()) else { return };
        if rule(next).is_some_and(|rule| matches!(rule.at, Some(MonitorPosition::Beside(..))) || rule.mirrors.is_some()) {
            amiss.push(format!("{} lies at the right: the monitor that it goes by is not there", outputs[next].name));
        }
        let ends = (0..outputs.len()).filter(|at| placed[*at]).filter_map(|at| lit[at]).map(|lit| lit.at.0 + lit.size().0);
        let right = ends.max().unwrap_or(0);
        if let Some(own) = lit[next].as_mut() {
            own.at = (right, 0);
        }
        placed[next] = true;
    }
}
