//! The launcher as things to draw: what was typed, the lists, rows, and a line of help.

use jovrik_values::{ElementState, IconRef, Rect, Side};

use super::icons::{SMALL, draw_icon};
use crate::bar::StyledIcon;
use crate::rice::{Fit, Rice};
use crate::scene::{Measure, Primitive, Scene, TextRotation, TextStyle, cut};
use crate::style::{ComputedStyle, StyledElement, resolve};

/// A row, or a cell of a grid.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct LauncherRow {
    /// What it is called.
    pub name: String,
    /// The letters of that which were typed, by their places.
    pub letters: Vec<usize>,
    /// What stands at its end.
    pub note: String,
    /// The drawing before it, or above it in a grid of pictures.
    pub icon: IconRef,
    /// Whether it would be chosen.
    pub picked: bool,
    /// Whether it is marked as one of several.
    pub marked: bool,
}

/// All that is seen of a launcher.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct LauncherView {
    /// What is said before anything is typed.
    pub prompt: String,
    /// What was typed.
    pub typed: String,
    /// The lists: their names, and whether something stands in them.
    pub lists: Vec<(String, bool)>,
    /// Which of them is shown.
    pub list: usize,
    /// The rows that are seen.
    pub rows: Vec<LauncherRow>,
    /// For how many there is room.
    pub room: usize,
    /// How many stand in a row.
    pub columns: usize,
    /// Whether they are pictures.
    pub pictures: bool,
    /// What is said where there are none.
    pub nothing: String,
    /// What keys do.
    pub help: Vec<(String, String)>,
    /// How many were found, in words.
    pub count: String,
}

/// Where things lie that can be pressed.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct LauncherHitAreas {
    /// The rows that are seen.
    pub rows: Vec<Rect>,
    /// The lists.
    pub lists: Vec<Rect>,
}

const LAUNCHER: StyledElement<'static> = StyledElement { kind: "launcher", name: "", states: &[] };
/// The mark before what was typed, and those of lists.
const MARK: f32 = 3.0;
/// A picture is so wide for its height.
const SHAPE: f32 = 16.0 / 9.0;

fn style(rice: &Rice, kind: &str, states: &[ElementState]) -> ComputedStyle {
    resolve(rice, &[LAUNCHER, StyledElement { kind, name: "", states }])
}

/// What stands in a row, in the row's states.
fn in_row(rice: &Rice, kind: &str, states: &[ElementState]) -> ComputedStyle {
    resolve(rice, &[LAUNCHER, StyledElement { kind: "launcher.row", name: "", states }, StyledElement { kind, name: "", states }])
}

/// How high a line of an element is.
fn high(style: &ComputedStyle) -> f32 {
    (style.face.line() + (style.pad.top + style.pad.bottom) as f32).max(style.min)
}

impl LauncherView {
    /// How large a row is, or a cell of the grid.
    fn cell(&self, rice: &Rice, width: f32) -> (f32, f32) {
        let (own, row) = (resolve(rice, &[LAUNCHER]), style(rice, "launcher.row", &[]));
        let wide = (width - (own.pad.left + own.pad.right) as f32) / self.columns.max(1) as f32;
        let text = high(&row);
        let picture = (wide - (row.pad.left + row.pad.right) as f32) / SHAPE;
        (wide, if self.pictures { picture.round() + text + row.pad.top as f32 } else { text })
    }
}

/// How high a launcher of a width is.
pub fn board_height(rice: &Rice, board: &LauncherView, width: f32) -> f32 {
    let own = resolve(rice, &[LAUNCHER]);
    let lines = board.room.max(1).div_ceil(board.columns.max(1)) as f32;
    let help = if board.help.is_empty() { 0.0 } else { high(&style(rice, "launcher.help", &[])) };
    let head = high(&style(rice, "launcher.typed", &[]));
    head + (own.pad.top + own.pad.bottom) as f32 + lines * board.cell(rice, width).1 + help
}

/// Draws a launcher in a box.
pub fn board(rice: &Rice, board: &LauncherView, rect: Rect, scene: &mut Scene, measure: &mut dyn Measure) -> LauncherHitAreas {
    let own = resolve(rice, &[LAUNCHER]);
    scene.styled(rect, &own, Side::Bottom);
    let mut places = LauncherHitAreas::default();
    let typed = style(rice, "launcher.typed", &[]);
    let head = Rect { h: high(&typed), ..rect };
    draw_head(rice, board, &typed, head, scene, measure, &mut places);
    let (wide, tall) = board.cell(rice, rect.w);
    let (left, top) = (rect.x + own.pad.left as f32, head.y + head.h + own.pad.top as f32);
    for (nth, row) in board.rows.iter().enumerate() {
        let (line, column) = (nth / board.columns.max(1), nth % board.columns.max(1));
        let place = Rect::new(left + column as f32 * wide, top + line as f32 * tall, wide, tall);
        draw_row(rice, board, row, place, scene, measure);
        places.rows.push(place);
    }
    if board.rows.is_empty() {
        let note = in_row(rice, "launcher.note", &[]);
        let row = style(rice, "launcher.row", &[]);
        let x = left + row.pad.left as f32;
        let text = cut(&board.nothing, wide - (row.pad.left + row.pad.right) as f32, &note.face, measure);
        scene.text(x, top + tall.min(high(&row)) / 2.0, text, &note.face, note.ink);
    }
    if !board.help.is_empty() {
        let help = style(rice, "launcher.help", &[]);
        let high = high(&help);
        draw_help(rice, board, &help, Rect { y: rect.y + rect.h - high, h: high, ..rect }, scene, measure);
    }
    places
}

/// What was typed, and the lists as marks of a staff.
fn draw_head(
    rice: &Rice,
    board: &LauncherView,
    typed: &ComputedStyle,
    head: Rect,
    scene: &mut Scene,
    measure: &mut dyn Measure,
    places: &mut LauncherHitAreas,
) {
    scene.styled(head, typed, Side::Bottom);
    let middle = (head.y + head.h / 2.0).round();
    let accent = style(rice, "launcher.mark", &[ElementState::Active]);
    let line = typed.face.line();
    let left = head.x + typed.pad.left as f32;
    let tall = (line * 0.9).round();
    scene.items.push(Primitive::Fill {
        rect: Rect::new(left, middle - (tall / 2.0).round(), MARK, tall),
        radius: [1.0; 4],
        fill: accent.fill.clone(),
    });
    // From the right: the lists.
    let gap = accent.gap;
    let mut right = head.x + head.w - typed.pad.right as f32;
    let mut marks = Vec::new();
    for (nth, (name, lives)) in board.lists.iter().enumerate().rev() {
        let active = nth == board.list;
        let states: &[ElementState] = match (active, lives) {
            (true, _) => &[ElementState::Active],
            (false, true) => &[ElementState::Running],
            (false, false) => &[],
        };
        let mark = style(rice, "launcher.mark", states);
        let said = if active { measure.width(name, &mark.face).ceil() + 6.0 } else { 0.0 };
        right -= said + MARK;
        let (w, h) = match (active, lives) {
            (true, _) => (MARK, tall),
            (false, true) => (MARK, (tall * 0.45).round()),
            (false, false) => (MARK, MARK),
        };
        let place = Rect::new(right, middle - (h / 2.0).round(), w, h);
        scene.items.push(Primitive::Fill { rect: place, radius: [1.0; 4], fill: mark.fill.clone() });
        if active {
            scene.text(right + MARK + 6.0, middle, name.clone(), &mark.face, mark.ink);
        }
        marks.push(Rect::new(right - gap / 2.0, head.y, MARK + said + gap, head.h));
        right -= gap;
    }
    marks.reverse();
    places.lists = marks;
    let x = left + MARK + 9.0;
    let room = (right - x - 8.0).max(0.0);
    if board.typed.is_empty() && !board.prompt.is_empty() {
        let prompt = style(rice, "launcher.note", &[]);
        let face = TextStyle { points: typed.face.points, ..prompt.face };
        let said = cut(&board.prompt, room, &face, measure);
        scene.text(x + 8.0, middle, said, &face, prompt.ink);
    }
    // The end of a long text is what is being typed.
    let mut shown = board.typed.as_str();
    while measure.width(shown, &typed.face) > room
        && let Some(first) = shown.chars().next()
    {
        shown = &shown[first.len_utf8()..];
    }
    if !shown.is_empty() {
        scene.text(x, middle, shown, &typed.face, typed.ink);
    }
    // Blanks at its end are as wide as they are before something.
    let end = measure.width(&format!("{shown}."), &typed.face) - measure.width(".", &typed.face);
    let cursor = Rect::new((x + end + 1.0).round(), middle - (tall / 2.0).round(), 2.0, tall);
    scene.items.push(Primitive::Fill { rect: cursor, radius: [0.0; 4], fill: accent.fill });
}

fn draw_row(rice: &Rice, board: &LauncherView, row: &LauncherRow, place: Rect, scene: &mut Scene, measure: &mut dyn Measure) {
    let mut states = Vec::new();
    if row.picked {
        states.push(ElementState::Picked);
    }
    if row.marked {
        states.push(ElementState::Running);
    }
    let own = style(rice, "launcher.row", &states);
    scene.styled(place, &own, Side::Bottom);
    let (left, right) = (place.x + own.pad.left as f32, place.x + place.w - own.pad.right as f32);
    let text = high(&own);
    let middle = place.y + place.h - text / 2.0;
    let mut x = left;
    if board.pictures {
        if let IconRef::Picture(path) = &row.icon {
            let h = place.h - text - own.pad.top as f32;
            let rect = Rect::new(left, place.y + own.pad.top as f32, right - left, h);
            let mut empty = Scene::default();
            empty.fill(rect, 0.0, rice.palette.current.line);
            let path = format!("{SMALL}{path}");
            scene.items.push(Primitive::Picture { rect, path, fit: Fit::Cover, otherwise: empty.items });
        }
    } else if rice.launcher.icons {
        let size = rice.launcher.icon_size.0 as f32;
        if !row.icon.is_none() {
            let style = in_row(rice, "launcher.icon", &states);
            let width = match &row.icon {
                IconRef::Character(text) => measure.width(text, &super::icon_face(rice, size)),
                _ => size,
            };
            let sign = StyledIcon { icon: row.icon.clone(), style, size, width };
            draw_icon(rice, &sign, x, (middle - size / 2.0).round(), scene);
        }
        x += size + own.gap;
    }
    if row.marked {
        let mark = style(rice, "launcher.mark", &[ElementState::Active]);
        let rect = Rect::new(place.x, place.y + 4.0, MARK, place.h - 8.0);
        scene.items.push(Primitive::Fill { rect, radius: [1.0; 4], fill: mark.fill });
    }
    let note = in_row(rice, "launcher.note", &states);
    let said = if board.columns > 1 { String::new() } else { cut(&row.note, (right - x) * 0.5, &note.face, measure) };
    let wide = if said.is_empty() { 0.0 } else { measure.width(&said, &note.face) };
    if !said.is_empty() {
        scene.text(right - wide, middle, said, &note.face, note.ink);
    }
    let room = right - x - if wide > 0.0 { wide + 12.0 } else { 0.0 };
    let name = cut(&row.name, room, &own.face, measure);
    let found = in_row(rice, "launcher.match", &states);
    draw_name(&name, &row.letters, (&own, &found), (x, middle), scene, measure);
}

/// A name with the letters that were typed set off.
fn draw_name(
    name: &str,
    letters: &[usize],
    (plain, found): (&ComputedStyle, &ComputedStyle),
    (x, y): (f32, f32),
    scene: &mut Scene,
    measure: &mut dyn Measure,
) {
    let chars: Vec<char> = name.chars().collect();
    let mut at = 0;
    let mut so_far = String::with_capacity(name.len());
    while at < chars.len() {
        let set_off = letters.contains(&at);
        let end = (at..chars.len()).find(|next| letters.contains(next) != set_off).unwrap_or(chars.len());
        let piece: String = chars[at..end].iter().collect();
        // Blanks at the end of what comes before count as they do within a line.
        let from = measure.width(&format!("{so_far}."), &plain.face) - measure.width(".", &plain.face);
        let style = if set_off { found } else { plain };
        let from = if so_far.is_empty() { 0.0 } else { from };
        let (text, face) = (piece.clone(), style.face.clone());
        scene.items.push(Primitive::Text { x: x + from, y, text, face, colour: style.ink, turn: TextRotation::None });
        so_far.push_str(&piece);
        at = end;
    }
}

fn draw_help(rice: &Rice, board: &LauncherView, help: &ComputedStyle, place: Rect, scene: &mut Scene, measure: &mut dyn Measure) {
    scene.styled(place, help, Side::Top);
    let key = resolve(
        rice,
        &[
            LAUNCHER,
            StyledElement { kind: "launcher.help", name: "", states: &[] },
            StyledElement { kind: "launcher.key", name: "", states: &[] },
        ],
    );
    let middle = place.y + place.h / 2.0;
    let right = place.x + place.w - help.pad.right as f32;
    let counted = measure.width(&board.count, &help.face).ceil();
    scene.text(right - counted, middle, board.count.clone(), &help.face, help.ink);
    let mut x = place.x + help.pad.left as f32;
    for (keys, does) in &board.help {
        let (a, b) = (measure.width(keys, &key.face).ceil(), measure.width(does, &help.face).ceil());
        if x + a + 6.0 + b > right - counted - help.gap {
            break;
        }
        scene.text(x, middle, keys.clone(), &key.face, key.ink);
        scene.text(x + a + 6.0, middle, does.clone(), &help.face, help.ink);
        x += a + 6.0 + b + help.gap;
    }
}
