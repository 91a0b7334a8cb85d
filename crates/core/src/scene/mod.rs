//! What is to be drawn: boxes, lines, text, in order. The same scene becomes a file or a screen.

mod bar;
mod contours;
mod desktop;
mod dock;
mod icons;
mod launcher_view;
mod notification;
mod popup;
mod sample_windows;
mod sheet;
mod tabs;
mod widget_scene;

pub use bar::{strip_area, strip_items};
pub use desktop::{backdrop, frame_items, seen};
pub use dock::{DockScene, dock, dock_thickness};
pub use icons::{SMALL, THEMED, draw_icon, icon_face, icon_path};
pub use launcher_view::{LauncherHitAreas, LauncherRow, LauncherView, board, board_height};
pub use notification::{NotificationContent, NotificationHitAreas, NotificationLayout, notice};
pub use popup::{Menu, hint, hint_size};
pub use sample_windows::{default_apps, default_tellings, default_windows, draw as draw_pretended, in_front, pretend};
pub use sheet::{Sheet, keyboard, scope_role, sheet};
pub use tabs::{Tab, draw_tabs, tab_at, tab_height, tabs};
pub use widget_scene::{WidgetReading, widget};

use jovrik_schema::Colour;
use jovrik_values::{BorderSides, Corners, Fill, Rect, Side};

use crate::rice::Fit;
use crate::style::ComputedStyle;

/// How text is set.
#[derive(Debug, Clone, PartialEq)]
pub struct TextStyle {
    /// The family that the rice asks for.
    pub family: String,
    /// Its size in points.
    pub points: f32,
    /// Whether it is bold.
    pub bold: bool,
    /// Whether a line runs under it.
    pub underline: bool,
    /// Whether a built-in face that stands in must have cells of one width.
    pub mono: bool,
}

impl TextStyle {
    /// A family at a size.
    pub fn new(family: &str, points: f32) -> Self {
        TextStyle { family: family.to_owned(), points, bold: false, underline: false, mono: false }
    }

    /// The same, in cells of one width.
    #[must_use]
    pub fn mono(self) -> Self {
        TextStyle { mono: true, ..self }
    }

    /// The height of a line, in pixels.
    pub fn line(&self) -> f32 {
        (self.points * 96.0 / 72.0 * 1.4).ceil()
    }
}

/// A piece of a path.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum PathSegment {
    /// Begins somewhere.
    Move(f32, f32),
    /// A straight line.
    Line(f32, f32),
    /// A cubic curve: two handles and the end.
    Curve(f32, f32, f32, f32, f32, f32),
    /// Back to where it began.
    Close,
}

/// How round corners are, in pixels: top left, top right, bottom right, bottom left.
pub type CornerRadii = [f32; 4];

/// Which way text runs.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum TextRotation {
    /// From left to right.
    #[default]
    None,
    /// Upwards, as at the left edge of a screen; its place is the middle of its lower end.
    Up,
    /// Downwards, as at the right edge; its place is the middle of its upper end.
    Down,
}

/// One thing to draw.
#[derive(Debug, Clone, PartialEq)]
pub enum Primitive {
    /// A filled box.
    Fill {
        /// Where.
        rect: Rect,
        /// How round its corners are.
        radius: CornerRadii,
        /// What with.
        fill: Fill,
    },
    /// A border inside the edge of a box.
    Border {
        /// The outer edge.
        rect: Rect,
        /// How round its outer corners are.
        radius: CornerRadii,
        /// How thick it is.
        width: f32,
        /// What with.
        fill: Fill,
    },
    /// A soft edge round a box, fading outwards.
    Glow {
        /// The box.
        rect: Rect,
        /// How round its corners are.
        radius: f32,
        /// How far it reaches.
        width: f32,
        /// Its colour at the box.
        colour: Colour,
    },
    /// A stroked line with round ends.
    Stroke {
        /// The way.
        path: Vec<PathSegment>,
        /// How thick it is.
        width: f32,
        /// Its colour.
        colour: Colour,
        /// Lengths of dashes and gaps; none for a whole line.
        dash: Option<(f32, f32)>,
    },
    /// A filled path.
    Shape {
        /// Its edge.
        path: Vec<PathSegment>,
        /// Its colour.
        colour: Colour,
    },
    /// One line of text.
    Text {
        /// Its left end.
        x: f32,
        /// The middle of its line.
        y: f32,
        /// What it says.
        text: String,
        /// How it is set.
        face: TextStyle,
        /// Its colour.
        colour: Colour,
        /// Which way it runs.
        turn: TextRotation,
    },
    /// A picture from a file.
    Picture {
        /// Where.
        rect: Rect,
        /// The file's path, in the rice's folder unless it is whole.
        path: String,
        /// How it fits.
        fit: Fit,
        /// What is drawn in its place where it cannot be.
        otherwise: Vec<Primitive>,
    },
}

/// Things to draw, from below.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Scene {
    /// The things.
    pub items: Vec<Primitive>,
}

impl Scene {
    /// A filled box.
    pub fn fill(&mut self, rect: Rect, radius: f32, colour: Colour) {
        self.items.push(Primitive::Fill { rect, radius: [radius; 4], fill: colour.into() });
    }

    /// A box as its style says: its fill and its line. A line at the inner side runs along `inner`.
    pub fn styled(&mut self, rect: Rect, style: &ComputedStyle, inner: Side) {
        let Corners(radius) = style.radius;
        let radius = radius.map(|radius| radius as f32);
        if !style.fill.is_none() {
            self.items.push(Primitive::Fill { rect, radius, fill: style.fill.clone() });
        }
        let width = style.line.width as f32;
        if width <= 0.0 || style.line.fill.is_none() {
            return;
        }
        let fill = style.line.fill.clone();
        let Rect { x, y, w, h } = rect;
        let edge = match (style.line.at, inner) {
            (BorderSides::All, _) => {
                self.items.push(Primitive::Border { rect, radius, width, fill });
                return;
            }
            (BorderSides::Inner, Side::Top) => Rect::new(x, y, w, width),
            (BorderSides::Inner, Side::Bottom) => Rect::new(x, y + h - width, w, width),
            (BorderSides::Inner, Side::Left) => Rect::new(x, y, width, h),
            (BorderSides::Inner, Side::Right) => Rect::new(x + w - width, y, width, h),
        };
        self.items.push(Primitive::Fill { rect: edge, radius: [0.0; 4], fill });
    }

    /// A line of text, by the middle of its line.
    pub fn text(&mut self, x: f32, y: f32, text: impl Into<String>, face: &TextStyle, colour: Colour) {
        self.items.push(Primitive::Text { x, y, text: text.into(), face: face.clone(), colour, turn: TextRotation::None });
    }

    /// A line.
    pub fn stroke(&mut self, path: Vec<PathSegment>, width: f32, colour: Colour) {
        self.items.push(Primitive::Stroke { path, width, colour, dash: None });
    }
}

impl Primitive {
    /// The same, so many times as large, and then so far to the right and down.
    fn placed(self, by: f32, (dx, dy): (f32, f32)) -> Primitive {
        let rect = |rect: Rect| {
            let rect = rect.times(by);
            Rect { x: rect.x + dx, y: rect.y + dy, ..rect }
        };
        let round = |radius: CornerRadii| radius.map(|radius| radius * by);
        let way = |path: Vec<PathSegment>| icons::moved(icons::scaled(path, by), dx, dy);
        match self {
            Primitive::Fill { rect: at, radius, fill } => Primitive::Fill { rect: rect(at), radius: round(radius), fill },
            Primitive::Border { rect: at, radius, width, fill } => {
                Primitive::Border { rect: rect(at), radius: round(radius), width: width * by, fill }
            }
            Primitive::Glow { rect: at, radius, width, colour } => {
                Primitive::Glow { rect: rect(at), radius: radius * by, width: width * by, colour }
            }
            Primitive::Stroke { path, width, colour, dash } => {
                let dash = dash.map(|(on, off)| (on * by, off * by));
                Primitive::Stroke { path: way(path), width: width * by, colour, dash }
            }
            Primitive::Shape { path, colour } => Primitive::Shape { path: way(path), colour },
            Primitive::Text { x, y, text, face, colour, turn } => {
                let face = TextStyle { points: face.points * by, ..face };
                Primitive::Text { x: x * by + dx, y: y * by + dy, text, face, colour, turn }
            }
            Primitive::Picture { rect: at, path, fit, otherwise } => {
                let otherwise = otherwise.into_iter().map(|item| item.placed(by, (dx, dy))).collect();
                Primitive::Picture { rect: rect(at), path, fit, otherwise }
            }
        }
    }
}

impl Scene {
    /// The same, so many times as large.
    #[must_use]
    pub fn scaled(self, by: f32) -> Scene {
        self.placed(by, (0.0, 0.0))
    }

    /// The same, so many times as large, and then so far to the right and down.
    #[must_use]
    pub fn placed(self, by: f32, to: (f32, f32)) -> Scene {
        if by == 1.0 && to == (0.0, 0.0) {
            return self;
        }
        Scene { items: self.items.into_iter().map(|item| item.placed(by, to)).collect() }
    }
}

/// As much of a text as there is room for, with a mark where it is cut.
fn cut(text: &str, room: f32, face: &TextStyle, measure: &mut dyn Measure) -> String {
    if measure.width(text, face) <= room {
        return text.to_owned();
    }
    let chars: Vec<char> = text.chars().collect();
    let (mut fits, mut too_long) = (0, chars.len());
    let with = |count: usize| format!("{}…", chars[..count].iter().collect::<String>().trim_end());
    while fits + 1 < too_long {
        let middle = usize::midpoint(fits, too_long);
        if measure.width(&with(middle), face) <= room { fits = middle } else { too_long = middle }
    }
    if fits == 0 { String::new() } else { with(fits) }
}

/// What the core must ask of whoever has fonts.
pub trait Measure {
    /// How wide a line of text is, in pixels.
    fn width(&mut self, text: &str, face: &TextStyle) -> f32;
}

impl<M: Measure + ?Sized> Measure for &mut M {
    fn width(&mut self, text: &str, face: &TextStyle) -> f32 {
        (**self).width(text, face)
    }
}
