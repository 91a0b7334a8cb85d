//! Puts the modules of a bar into their places.

use std::borrow::Cow;

use jovrik_values::{Align, ElementState, FieldValue, IconRef, ModuleValues, Rect, Side, Values};

use super::bar_layout::{BarLayout, Mark, ModuleContent, PlacedModule, StyledIcon, WorkspaceState};
use super::space_allocation::{SizeRequest, fit};
use crate::desk::WindowManager;
use crate::launcher::AppIcons;
use crate::rice::{Bar, BuiltInSource, Module, Rice, SourceKind};
use crate::scene::{Measure, TextRotation, icon_face};
use crate::style::{ComputedStyle, StyledElement, resolve};

/// The edge of an icon's square.
const ICON: f32 = 16.0;
/// Between two icons of the tray.
pub const TRAY_GAP: f32 = 6.0;
/// From a workspace's mark to its icon or name.
const MARK_GAP: f32 = 8.0;

/// The icons of other programs: windows of theirs, and pictures that we draw.
#[derive(Debug, Clone, Copy, Default)]
pub struct TraySummary<'a> {
    /// How many windows.
    pub windows: usize,
    /// The pictures.
    pub pictures: &'a [IconRef],
}

/// What is the case while a bar is shown.
#[derive(Debug, Clone, Copy)]
pub struct BarInput<'a> {
    /// The values of all modules.
    pub known: &'a ModuleValues,
    /// The bar and the module that the pointer is over.
    pub hover: Option<(&'a str, &'a str)>,
    /// The icons of other programs.
    pub tray: TraySummary<'a>,
    /// The mode of the bindings that holds.
    pub mode: Option<&'a str>,
    /// The keyboard's layout, where it is known.
    pub keyboard: &'a str,
    /// The chords of a sequence that is not finished.
    pub sequence: &'a str,
    /// What programs told.
    pub told: NotificationSummary<'a>,
    /// The icons of those that run.
    pub icons: AppIcons<'a>,
}

/// What programs told, as far as a bar says it.
#[derive(Debug, Clone, Copy, Default)]
pub struct NotificationSummary<'a> {
    /// Who told the latest, and its first line.
    pub latest: Option<(&'a str, &'a str)>,
    /// How many nobody has dealt with yet.
    pub waits: usize,
    /// Whether only urgent ones are shown.
    pub quiet: bool,
}

impl<'a> BarInput<'a> {
    /// Values and nothing else.
    pub fn of(known: &'a ModuleValues) -> Self {
        let (tray, told, icons) = (TraySummary::default(), NotificationSummary::default(), AppIcons::default());
        BarInput { known, hover: None, tray, mode: None, keyboard: "", sequence: "", told, icons }
    }
}

struct Maker<'a, 'm> {
    rice: &'a Rice,
    desk: &'a WindowManager,
    monitor: usize,
    bar: &'a str,
    upright: bool,
    /// Which way text runs that must turn.
    turn: TextRotation,
    /// The room across the bar.
    across: f32,
    /// How many pixels a pixel of the settings takes.
    by: f32,
    now: BarInput<'a>,
    measure: &'m mut dyn Measure,
}

/// A module before its place is known: what it shows, all that it asks for, and the least.
struct UnplacedModule {
    shown: PlacedModule,
    want: SizeRequest,
    group: usize,
}

impl Maker<'_, '_> {
    fn style(&self, kind: &str, name: &str, states: &[ElementState]) -> ComputedStyle {
        let bar = StyledElement { kind: "bar", name: self.bar, states: &[] };
        let module = StyledElement { kind: "bar.module", name, states };
        match kind {
            "bar.module" => resolve(self.rice, &[bar, module]),
            _ => resolve(self.rice, &[bar, module, StyledElement { kind, name, states }]),
        }
        .scaled(self.by)
    }

    /// Paddings before and after what is in a box, along the bar.
    fn pads(&self, style: &ComputedStyle) -> (f32, f32) {
        let pad = style.pad;
        let (before, after) = if self.upright { (pad.top, pad.bottom) } else { (pad.left, pad.right) };
        (before as f32, after as f32)
    }

    fn sign(
        &mut self,
        icon: &IconRef,
        name: &str,
        states: &[ElementState],
        app: impl FnOnce() -> Option<String>,
    ) -> Option<StyledIcon> {
        let icon = match icon {
            IconRef::App => self.now.icons.of_app(self.rice, &app()?),
            other => other.clone(),
        };
        if icon.is_none() {
            return None;
        }
        let width = self.icon_width(&icon);
        Some(StyledIcon { icon, style: self.style("bar.icon", name, states), size: ICON * self.by, width })
    }

    fn icon_width(&mut self, icon: &IconRef) -> f32 {
        match icon {
            IconRef::Character(text) => self.measure.width(text, &icon_face(self.rice, ICON * self.by)),
            _ => ICON * self.by,
        }
    }

    fn pieces(&mut self, names: &[String], group: usize, out: &mut Vec<UnplacedModule>) {
        for name in names {
            let Some(module) = self.rice.module.get(name) else { continue };
            out.extend(self.piece(name, module, group));
            if !module.group.is_empty() && !self.desk.folded(name) {
                // A group in a group does not unfold: one that holds itself would have no end.
                for inner in module.group.iter().filter(|inner| *inner != name) {
                    let member = self.rice.module.get(inner);
                    out.extend(member.and_then(|module| self.piece(inner, module, group)));
                }
            }
        }
    }

    fn piece(&mut self, name: &str, module: &Module, group: usize) -> Option<UnplacedModule> {
        let values = values(self.desk, self.monitor, &self.now, name, module);
        let mut states: Vec<ElementState> = values.grade(&module.grades).state().into_iter().collect();
        if self.now.hover == Some((self.bar, name)) && !module.press.0.is_empty() {
            states.push(ElementState::Hover);
        }
        let style = self.style("bar.module", name, &states);
        let (before, after) = self.pads(&style);
        let (text, icon) = module.case(&values);
        let (what, whole, least) = match module.source.kind {
            SourceKind::BuiltIn(BuiltInSource::Workspaces) => {
                let (marks, length) = self.staff();
                (ModuleContent::Staff(marks), length, length)
            }
            SourceKind::BuiltIn(BuiltInSource::Layout) if text.is_plain() => {
                let length = self.by * if self.upright { 12.0 } else { ICON + 2.0 };
                let ink = self.style("bar.icon", name, &states).ink;
                (ModuleContent::Layout { sketch: self.desk.layout_sketch(self.monitor), ink }, length, length)
            }
            SourceKind::BuiltIn(BuiltInSource::Tray) => {
                let TraySummary { windows, pictures } = self.now.tray;
                let count = windows + pictures.len();
                if count == 0 {
                    return None;
                }
                let signs = pictures.iter().filter_map(|icon| self.sign(icon, name, &states, || None));
                let signs = signs.collect::<Vec<_>>();
                let length = (count as f32 * ICON + (count - 1) as f32 * TRAY_GAP) * self.by;
                (ModuleContent::Tray { windows, signs }, length, length)
            }
            _ => {
                let text = text.fill(&values).unwrap_or_else(|| module.empty.clone());
                let (desk, monitor) = (self.desk, self.monitor);
                let app = || match values.0.get("app") {
                    Some(field) => Some(field.plain()),
                    None => desk.title_values(monitor).0.get("app").map(FieldValue::plain),
                };
                let sign = self.sign(icon, name, &states, app);
                if text.is_empty() && (sign.is_none() || !values.0.is_empty() || module.source.kind != SourceKind::None) {
                    return None;
                }
                let width = self.measure.width(&text, &style.face);
                // A little air stays at both sides.
                let turned = self.upright && width > self.across - 8.0 * self.by;
                let length = if self.upright && !turned { style.face.line() } else { width };
                let signs = sign.as_ref().map_or(0.0, |sign| sign.size);
                let gap = if sign.is_some() && !text.is_empty() { style.gap } else { 0.0 };
                let dots = if turned || !self.upright { self.measure.width("…", &style.face) } else { length };
                let length = if text.is_empty() { 0.0 } else { length };
                let turn = if turned { self.turn } else { TextRotation::None };
                let whole = signs + gap + length;
                let least = signs + gap + dots.min(length);
                (ModuleContent::Text { sign, text, length, width, turn }, whole, least)
            }
        };
        let pads = before + after;
        let (min, max) = ((module.min.0 as f32 * self.by).max(style.min), (module.max.0 as f32 * self.by).min(style.max));
        let whole = (whole + pads).ceil();
        let rigid = !matches!(what, ModuleContent::Text { .. });
        let least = if rigid { whole } else { (least + pads).ceil().max(min.min(whole)) };
        // A line that is longer than its bar is thick can be cut, and only that.
        let room = if rigid { whole } else { whole.min(max.max(least)).max(min) };
        let hover = module.hover.as_ref().and_then(|pattern| pattern.fill(&values));
        let rect = Rect { x: 0.0, y: 0.0, w: whole, h: 0.0 };
        let shown = PlacedModule { name: name.to_owned(), rect, what, style, hover, cut: 0.0 };
        Some(UnplacedModule { shown, want: SizeRequest { whole: room, least: least.min(room), shrink: module.shrink.0 }, group })
    }

    fn staff(&mut self) -> (Vec<Mark>, f32) {
        let mut marks: Vec<Mark> = Vec::new();
        let mut at = 0.0;
        let mut length = 0.0;
        for (workspace, state) in self.desk.workspace_marks(self.monitor) {
            let states: &[ElementState] = match state {
                WorkspaceState::Active => &[ElementState::Active],
                WorkspaceState::Urgent => &[ElementState::Urgent],
                WorkspaceState::Populated => &[ElementState::Running],
                WorkspaceState::Empty => &[],
            };
            let bar = StyledElement { kind: "bar", name: self.bar, states: &[] };
            let style = resolve(self.rice, &[bar, StyledElement { kind: "bar.mark", name: "", states }]).scaled(self.by);
            let here = state == WorkspaceState::Active;
            let icon = self.rice.workspace.get(workspace).map(|rule| rule.icon.clone()).filter(|icon| !icon.is_none());
            let sign =
                icon.map(|icon| StyledIcon { width: self.icon_width(&icon), icon, style: style.clone(), size: ICON * self.by });
            let name = here.then(|| workspace.to_owned());
            let mut long = 3.0 * self.by;
            long += sign.as_ref().map_or(0.0, |sign| MARK_GAP * self.by + sign.size);
            long += name.as_ref().map_or(0.0, |name| MARK_GAP * self.by + self.measure.width(name, &style.face).ceil());
            // A name gets a little more air behind it.
            let gap = style.gap + if here { 6.0 * self.by } else { 0.0 };
            length = at + long;
            marks.push(Mark { workspace: workspace.to_owned(), at, length: long, state, sign, name, style });
            at += long + gap;
        }
        (marks, length)
    }

    /// Gives a piece its room; a text that does not fit is cut.
    fn settle(&mut self, piece: UnplacedModule, room: f32) -> PlacedModule {
        let UnplacedModule { mut shown, .. } = piece;
        let whole = shown.rect.w;
        shown.rect.w = room;
        let (before, after) = self.pads(&shown.style);
        if room + 0.01 < whole
            && let ModuleContent::Text { sign, text, length, width, turn } = &mut shown.what
            && (!self.upright || *turn != TextRotation::None)
        {
            let signs = sign.as_ref().map_or(0.0, |sign| sign.size + shown.style.gap);
            let left = room - before - after - signs;
            let chars: Vec<char> = text.chars().collect();
            let (mut low, mut high) = (0, chars.len());
            let shortened = |len: usize| {
                let kept: String = chars[..len].iter().collect();
                format!("{}…", kept.trim_end())
            };
            while low < high {
                let middle = (low + high).div_ceil(2);
                if self.measure.width(&shortened(middle), &shown.style.face) <= left { low = middle } else { high = middle - 1 }
            }
            *text = shortened(low);
            *length = self.measure.width(text, &shown.style.face);
            *width = *length;
            shown.cut = whole - room;
        }
        shown
    }
}

/// What a module has to show on a monitor: what the desk knows, else what its source said.
pub fn values<'a>(desk: &WindowManager, monitor: usize, now: &BarInput<'a>, name: &str, module: &Module) -> Cow<'a, Values> {
    let said = |field: &str, text: &str| {
        let text = FieldValue::Text(text.to_owned());
        Values::one(field, text.clone()).and("value", text)
    };
    let of_desk = match module.source.kind {
        SourceKind::BuiltIn(BuiltInSource::Title) => desk.title_values(monitor),
        SourceKind::BuiltIn(BuiltInSource::Monitor) => {
            said("name", desk.monitors.get(monitor).map_or("", |monitor| monitor.facts.name.as_str()))
        }
        SourceKind::BuiltIn(BuiltInSource::Layout) => {
            let workspace = desk.monitors.get(monitor).map_or(0, |monitor| monitor.workspace);
            said("name", &desk.layout_of(workspace).0)
        }
        SourceKind::BuiltIn(BuiltInSource::Mode) => now.mode.map(|mode| said("name", mode)).unwrap_or_default(),
        SourceKind::BuiltIn(BuiltInSource::Tucked) if !desk.tucked.is_empty() => {
            let count = FieldValue::Number(desk.tucked.len() as f64);
            Values::one("count", count.clone()).and("value", count)
        }
        SourceKind::BuiltIn(BuiltInSource::Notices) if now.told.waits > 0 || now.told.quiet => {
            let told = now.told;
            let count = FieldValue::Number(told.waits as f64);
            let (app, title) = told.latest.unwrap_or_default();
            let state = if told.quiet { "paused" } else { "shown" };
            let text = |text: &str| FieldValue::Text(text.to_owned());
            let values = Values::one("count", count.clone()).and("value", count).and("state", text(state));
            values.and("app", text(app)).and("title", text(title))
        }
        SourceKind::BuiltIn(BuiltInSource::Keyboard) if !now.keyboard.is_empty() => said("name", now.keyboard),
        SourceKind::BuiltIn(BuiltInSource::Sequence) if !now.sequence.is_empty() => said("keys", now.sequence),
        _ => return now.known.get(name).map(Cow::Borrowed).unwrap_or_default(),
    };
    Cow::Owned(of_desk)
}

/// The area of a bar in which its modules stand.
fn inside(rect: Rect, style: &ComputedStyle) -> Rect {
    let pad = style.pad;
    let (left, top) = (pad.left as f32, pad.top as f32);
    Rect {
        x: rect.x + left,
        y: rect.y + top,
        w: (rect.w - left - pad.right as f32).max(0.0),
        h: (rect.h - top - pad.bottom as f32).max(0.0),
    }
}

/// Puts a bar's modules into their places.
pub fn arrange(
    desk: &WindowManager,
    monitor: usize,
    name: &str,
    bar: &Bar,
    now: BarInput<'_>,
    measure: &mut dyn Measure,
) -> BarLayout {
    let rice: &Rice = desk.rice();
    let rect = desk.bar_rect(monitor, name).unwrap_or_default();
    let by = desk.scale(monitor) as f32;
    let style = resolve(rice, &[StyledElement { kind: "bar", name, states: &[] }]).scaled(by);
    let upright = matches!(bar.edge, Side::Left | Side::Right);
    // At the side paddings turn with the bar: those along it are the same at every edge.
    let style = if upright {
        let pad = style.pad;
        let pad = jovrik_values::Sides { top: pad.left, right: pad.top, bottom: pad.right, left: pad.bottom };
        ComputedStyle { pad, ..style }
    } else {
        style
    };
    let inner = inside(rect, &style);
    let (from, room, across) = if upright { (inner.y, inner.h, inner.w) } else { (inner.x, inner.w, inner.h) };
    let turn = if bar.edge == Side::Right { TextRotation::Down } else { TextRotation::Up };
    let mut maker = Maker { rice, desk, monitor, bar: name, upright, turn, across, by, now, measure };
    let gap = style.gap;
    let mut left_out = Vec::new();
    let mut placed: Vec<(f32, PlacedModule)> = Vec::new();
    if bar.sections.is_empty() {
        let mut pieces = Vec::new();
        maker.pieces(&bar.start, 0, &mut pieces);
        maker.pieces(&bar.middle, 1, &mut pieces);
        maker.pieces(&bar.end, 2, &mut pieces);
        // The middle gives way before the two sides.
        let wants: Vec<SizeRequest> = pieces
            .iter()
            .map(|piece| SizeRequest { shrink: piece.want.shrink * 2 + i64::from(piece.group == 1), ..piece.want })
            .collect();
        let mut groups: [Vec<PlacedModule>; 3] = Default::default();
        for (piece, room) in pieces.into_iter().zip(fit(&wants, gap, room)) {
            let group = piece.group;
            match room {
                Some(room) => groups[group].push(maker.settle(piece, room)),
                None => left_out.push(piece.shown.name),
            }
        }
        let total = |list: &[PlacedModule]| {
            list.iter().map(|shown| shown.rect.w).sum::<f32>() + gap * list.len().saturating_sub(1) as f32
        };
        let lengths = [total(&groups[0]), total(&groups[1]), total(&groups[2])];
        let around = |group: usize| if groups[group].is_empty() { 0.0 } else { lengths[group] + gap };
        let end_from = (from + room - lengths[2]).round();
        let centre = (from + (room - lengths[1]) / 2.0).round();
        let (first, last) = (from + around(0), end_from - if groups[2].is_empty() { 0.0 } else { gap } - lengths[1]);
        let middle_from = centre.clamp(first.min(last), last.max(first));
        for (group, at) in groups.into_iter().zip([from, middle_from, end_from]) {
            place(group, at, gap, &mut placed);
        }
    } else {
        let weights: i64 = bar.sections.iter().map(|section| section.weight.0.max(1)).sum();
        let gaps = gap * (bar.sections.len() - 1) as f32;
        let mut at = from;
        for section in &bar.sections {
            let share = ((room - gaps).max(0.0) * section.weight.0.max(1) as f32 / weights as f32).floor();
            let mut pieces = Vec::new();
            maker.pieces(&section.show, 0, &mut pieces);
            let wants: Vec<SizeRequest> = pieces.iter().map(|piece| piece.want).collect();
            let mut list = Vec::new();
            for (piece, room) in pieces.into_iter().zip(fit(&wants, gap, share)) {
                match room {
                    Some(room) => list.push(maker.settle(piece, room)),
                    None => left_out.push(piece.shown.name),
                }
            }
            let total: f32 = list.iter().map(|shown| shown.rect.w).sum::<f32>() + gap * list.len().saturating_sub(1) as f32;
            let begin = match section.align {
                Align::Start => at,
                Align::Middle => (at + (share - total) / 2.0).round(),
                Align::End => at + share - total,
            };
            place(list, begin, gap, &mut placed);
            at += share + gap;
        }
    }
    let modules = placed.into_iter().map(|(at, mut shown)| {
        let along = shown.rect.w;
        shown.rect = if upright {
            Rect { x: inner.x, y: at, w: inner.w, h: along }
        } else {
            Rect { x: at, y: inner.y, w: along, h: inner.h }
        };
        shown
    });
    BarLayout { name: name.to_owned(), rect, edge: bar.edge, scale: by, modules: modules.collect(), style, left_out }
}

fn place(list: Vec<PlacedModule>, from: f32, gap: f32, out: &mut Vec<(f32, PlacedModule)>) {
    let mut at = from;
    for shown in list {
        let along = shown.rect.w;
        out.push((at, shown));
        at += along + gap;
    }
}
