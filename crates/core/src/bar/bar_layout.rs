//! A bar with its modules in their places, before it is drawn.

use jovrik_schema::Colour;
use jovrik_values::{IconRef, Rect, Side};

use crate::scene::TextRotation;
use crate::style::ComputedStyle;

/// One module as it is shown.
#[derive(Debug, Clone, PartialEq)]
pub struct PlacedModule {
    /// The module's name.
    pub name: String,
    /// Where it lies.
    pub rect: Rect,
    /// What is drawn there.
    pub what: ModuleContent,
    /// What it looks like.
    pub style: ComputedStyle,
    /// What it says when the pointer rests on it.
    pub hover: Option<String>,
    /// How many pixels of its text are missing.
    pub cut: f32,
}

/// An icon with its look.
#[derive(Debug, Clone, PartialEq)]
pub struct StyledIcon {
    /// The icon.
    pub icon: IconRef,
    /// Its look.
    pub style: ComputedStyle,
    /// The edge of its square, in pixels.
    pub size: f32,
    /// How wide it is in its square: a character's own width.
    pub width: f32,
}

/// What a module draws.
#[derive(Debug, Clone, PartialEq)]
pub enum ModuleContent {
    /// An icon and a text.
    Text {
        /// The icon.
        sign: Option<StyledIcon>,
        /// The text.
        text: String,
        /// How long the text is along the bar.
        length: f32,
        /// How wide the text is.
        width: f32,
        /// Which way it runs.
        turn: TextRotation,
    },
    /// Marks of the workspaces.
    Staff(Vec<Mark>),
    /// The layout as a small drawing.
    Layout {
        /// The drawing.
        sketch: crate::desk::LayoutSketch,
        /// Its colour: that of icons.
        ink: Colour,
    },
    /// The icons of other programs: room for windows of theirs, then pictures.
    Tray {
        /// How many windows.
        windows: usize,
        /// The pictures.
        signs: Vec<StyledIcon>,
    },
}

/// One workspace's mark.
#[derive(Debug, Clone, PartialEq)]
pub struct Mark {
    /// The workspace.
    pub workspace: String,
    /// From the start of the module, along the bar.
    pub at: f32,
    /// How long it is along the bar, with its name.
    pub length: f32,
    /// Its state.
    pub state: WorkspaceState,
    /// The icon of the workspace, where it has one.
    pub sign: Option<StyledIcon>,
    /// The name, written only where one is.
    pub name: Option<String>,
    /// Its look.
    pub style: ComputedStyle,
}

/// The state of a workspace.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum WorkspaceState {
    /// Nothing lives there.
    Empty,
    /// Something lives there.
    Populated,
    /// One is there.
    Active,
    /// A window calls.
    Urgent,
}

/// A bar with its modules in their places.
#[derive(Debug, Clone, PartialEq)]
pub struct BarLayout {
    /// The bar's name.
    pub name: String,
    /// Where it lies on the screen.
    pub rect: Rect,
    /// The edge of the screen that it lies at.
    pub edge: Side,
    /// How many pixels a pixel of the settings takes.
    pub scale: f32,
    /// What it looks like.
    pub style: ComputedStyle,
    /// Its modules.
    pub modules: Vec<PlacedModule>,
    /// Those for which there was no room at all.
    pub left_out: Vec<String>,
}

impl BarLayout {
    /// Whether its modules stand one below the other.
    pub fn upright(&self) -> bool {
        matches!(self.edge, Side::Left | Side::Right)
    }

    /// The side of the bar that is towards the middle of the screen.
    pub fn inner(&self) -> Side {
        match self.edge {
            Side::Top => Side::Bottom,
            Side::Bottom => Side::Top,
            Side::Left => Side::Right,
            Side::Right => Side::Left,
        }
    }

    /// Whether nothing behind it is seen.
    pub fn covers(&self) -> bool {
        self.style.fill.covers() && self.style.radius.0 == [0; 4]
    }

    /// The module at a point of the screen.
    pub fn at(&self, x: f32, y: f32) -> Option<&PlacedModule> {
        let inside = |rect: Rect| x >= rect.x && x < rect.x + rect.w && y >= rect.y && y < rect.y + rect.h;
        self.modules.iter().find(|shown| inside(shown.rect))
    }

    /// The areas that look different from an earlier state of the same bar: whole modules, on whole pixels.
    pub fn damage(&self, old: &BarLayout) -> Vec<Rect> {
        if self.rect != old.rect || self.edge != old.edge || self.style != old.style {
            return vec![self.rect];
        }
        let find = |strip: &'_ BarLayout, name: &str| strip.modules.iter().find(|shown| shown.name == name).cloned();
        // Glyphs may reach a little out of their box.
        let around = |rect: Rect| {
            let Rect { x, y, w, h } = self.rect;
            if self.upright() {
                let top = (rect.y - 4.0).floor().max(y);
                return Rect { x, y: top, w, h: (rect.y + rect.h + 4.0).ceil().min(y + h) - top };
            }
            let left = (rect.x - 4.0).floor().max(x);
            Rect { x: left, y, w: (rect.x + rect.w + 4.0).ceil().min(x + w) - left, h }
        };
        let mut areas = Vec::new();
        for shown in &self.modules {
            match find(old, &shown.name) {
                Some(before) if before == *shown => {}
                Some(before) => areas.push(around(before.rect.union(shown.rect))),
                None => areas.push(around(shown.rect)),
            }
        }
        areas.extend(old.modules.iter().filter(|before| find(self, &before.name).is_none()).map(|before| around(before.rect)));
        areas
    }
}
