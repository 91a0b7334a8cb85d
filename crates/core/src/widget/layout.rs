//! Where widgets lie on a monitor.

use std::borrow::Cow;
use std::collections::HashMap;
use std::rc::Rc;

use jovrik_values::{Align, PixelRect, Rect, Values};

use super::reading::{gauge, told};
use crate::bar::BarInput;
use crate::desk::WindowManager;
use crate::rice::{RelativePosition, Rice, Widget, WidgetPosition};
use crate::scene::{Measure, Scene, WidgetReading, widget};
use crate::style::{StyledElement, resolve};

/// A widget where it lies.
#[derive(Debug, Clone, PartialEq)]
pub struct PlacedWidget {
    /// Its name.
    pub name: String,
    /// Where it lies, in pixels of the screen.
    pub rect: Rect,
    /// What is drawn, in pixels of the screen.
    pub scene: Rc<Scene>,
}

/// What was made of widgets: one that has nothing else to show than before is not made again.
#[derive(Debug, Default)]
pub struct WidgetCache {
    rice: Option<Rc<Rice>>,
    /// By the number of the monitor, and the name.
    widgets: Vec<HashMap<String, One>>,
}

#[derive(Debug)]
struct One {
    /// What its modules told, and what it shows of that.
    told: Vec<Values>,
    shows: WidgetReading,
    /// In pixels of the settings, from its corner.
    scene: Scene,
    size: (f32, f32),
    /// Where it was laid last: the scale, its corner, and what is drawn there.
    laid: Option<(f32, (f32, f32), Rc<Scene>)>,
}

impl WidgetCache {
    /// All that was made of the widgets of a monitor with these settings.
    fn of(&mut self, rice: &Rc<Rice>, monitor: usize) -> &mut HashMap<String, One> {
        if !self.rice.as_ref().is_some_and(|own| Rc::ptr_eq(own, rice)) {
            (self.rice, self.widgets) = (Some(rice.clone()), Vec::new());
        }
        if self.widgets.len() <= monitor {
            self.widgets.resize_with(monitor + 1, HashMap::new);
        }
        &mut self.widgets[monitor]
    }
}

/// So many are shown on a monitor at most.
const MAX_WIDGETS: usize = 256;

/// A widget before its place is known.
struct UnplacedWidget<'a> {
    widget: &'a Widget,
    size: (f32, f32),
    gap: f32,
}

struct Layer<'a> {
    pieces: HashMap<&'a str, UnplacedWidget<'a>>,
    /// What there is room in, in pixels of the settings.
    room: Rect,
    /// Where those lie that were looked for; nothing of those that cannot lie anywhere.
    found: HashMap<&'a str, Option<(f32, f32)>>,
}

/// Which part of what is left over lies before something.
fn share(align: Align) -> f32 {
    match align {
        Align::Start => 0.0,
        Align::Middle => 0.5,
        Align::End => 1.0,
    }
}

impl<'a> Layer<'a> {
    /// Where the corner of a widget lies. One that lies by others that lie by it lies nowhere.
    fn corner(&mut self, name: &'a str) -> Option<(f32, f32)> {
        if let Some(known) = self.found.get(name) {
            return *known;
        }
        // Whoever comes here again goes in a circle.
        self.found.insert(name, None);
        let (widget, (w, h), gap) = self.pieces.get(name).map(|piece| (piece.widget, piece.size, piece.gap))?;
        let (x, y) = match &widget.at {
            WidgetPosition::Screen(anchor) => {
                let (across, down) = anchor.shares();
                (self.room.x + (self.room.w - w) * across, self.room.y + (self.room.h - h) * down)
            }
            WidgetPosition::By(to, other) => {
                let (left, top) = self.corner(other)?;
                let (other_w, other_h) = self.pieces.get(other.as_str())?.size;
                let share = share(widget.align);
                match to {
                    RelativePosition::Beside => (left + other_w + gap, top + (other_h - h) * share),
                    RelativePosition::Below => (left + (other_w - w) * share, top + other_h + gap),
                    RelativePosition::Inside => (left + (other_w - w) / 2.0, top + (other_h - h) / 2.0),
                }
            }
        };
        let corner = Some((x + widget.offset.0 as f32, y + widget.offset.1 as f32));
        self.found.insert(name, corner);
        corner
    }
}

/// The widgets of a monitor, with what they show, in the order in which the rice has them.
pub fn arrange(
    desk: &WindowManager,
    monitor: usize,
    now: &BarInput<'_>,
    measure: &mut dyn Measure,
    made: &mut WidgetCache,
) -> Vec<PlacedWidget> {
    let (rice, by) = (desk.rice(), desk.scale(monitor) as f32);
    let Some(facts) = desk.monitors.get(monitor) else { return Vec::new() };
    let workspace = desk.workspaces.get(facts.workspace).map_or("", |workspace| workspace.name.as_str());
    let here =
        |(_, widget): &(&'_ String, &Widget)| widget.monitor.matches(&facts.facts.name) && widget.workspace.matches(workspace);
    let names: Vec<(&String, &Widget)> = rice.widget.iter().filter(here).take(MAX_WIDGETS).collect();
    let made = made.of(rice, monitor);
    let mut pieces = HashMap::with_capacity(names.len());
    for (name, own) in &names {
        let told = told(desk, monitor, now, own);
        let size = match made.get_mut(*name) {
            Some(one) if one.told.iter().eq(told.iter().map(Cow::as_ref)) => one.size,
            one => {
                let shows = gauge(rice, own, &told);
                let told = told.into_iter().map(Cow::into_owned).collect();
                match one.filter(|one| one.shows == shows) {
                    Some(one) => {
                        one.told = told;
                        one.size
                    }
                    None => {
                        let (scene, size) = widget(rice, name, own, &shows, measure);
                        made.insert((*name).clone(), One { told, shows, scene, size, laid: None });
                        size
                    }
                }
            }
        };
        let gap = match own.at {
            WidgetPosition::By(..) => resolve(rice, &[StyledElement { kind: "widget", name, states: &[] }]).gap,
            WidgetPosition::Screen(_) => 0.0,
        };
        pieces.insert(name.as_str(), UnplacedWidget { widget: own, size, gap });
    }
    let room = Rect::from(desk.work_area(monitor)).times(1.0 / by);
    let mut layer = Layer { pieces, room, found: HashMap::new() };
    let mut laid = Vec::with_capacity(names.len());
    for (name, _) in names {
        let Some((x, y)) = layer.corner(name) else { continue };
        let Some(one) = made.get_mut(name) else { continue };
        let corner = ((x * by).round(), (y * by).round());
        let scene = match &one.laid {
            Some((scale, at, scene)) if (*scale, *at) == (by, corner) => scene.clone(),
            _ => {
                let scene = Rc::new(one.scene.clone().placed(by, corner));
                one.laid.insert((by, corner, scene)).2.clone()
            }
        };
        let rect = Rect::new(corner.0, corner.1, (one.size.0 * by).ceil(), (one.size.1 * by).ceil());
        laid.push(PlacedWidget { name: name.clone(), rect, scene });
    }
    laid
}

impl PlacedWidget {
    /// Where it is seen of a monitor; nothing when it lies beside it.
    pub fn seen(&self, monitor: PixelRect) -> Option<PixelRect> {
        PixelRect::from(self.rect).overlap(monitor)
    }
}
