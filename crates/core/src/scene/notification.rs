//! A notice as things to draw.

use jovrik_values::{ElementState, IconRef, Rect, Side};

use super::icons::draw_icon;
use crate::bar::StyledIcon;
use crate::desktop::MarkupRun;
use crate::rice::Rice;
use crate::scene::{Measure, Primitive, Scene, TextStyle, cut};
use crate::style::{ComputedStyle, StyledElement, resolve};

/// What a notice says.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct NotificationContent {
    /// Its first line.
    pub title: String,
    /// What follows.
    pub body: String,
    /// The same in pieces that look alike; none where all of it is plain.
    pub pieces: Vec<MarkupRun>,
    /// How loudly it calls, if it does.
    pub state: Option<ElementState>,
    /// A value from 0 to 1, shown as a bar.
    pub value: Option<f32>,
    /// What can be done about it: a label each.
    pub actions: Vec<String>,
    /// The picture beside it.
    pub picture: Option<IconRef>,
    /// How many more are folded into it.
    pub more: usize,
}

/// From the mark at its side to its text is in the padding; this is how thick the mark is.
const MARK: f32 = 3.0;
/// The most lines of a body that are shown, and of a title.
const MAX_BODY_LINES: usize = 8;
const MAX_TITLE_LINES: usize = 2;
/// How high the bar of a value is.
const BAR: f32 = 4.0;
/// From a picture to the text.
const BESIDE: f32 = 12.0;

/// A text as lines of a width, broken between words.
pub(super) fn lines(text: &str, width: f32, face: &TextStyle, measure: &mut dyn Measure) -> Vec<String> {
    let mut lines: Vec<String> = Vec::new();
    for word in text.split_whitespace() {
        let longer = lines.last().map(|line| format!("{line} {word}"));
        match longer.filter(|longer| measure.width(longer, face) <= width) {
            Some(longer) => {
                lines.pop();
                lines.push(longer);
            }
            None => lines.push(word.to_owned()),
        }
    }
    lines
}

/// A run of a line that looks alike: where it begins, and of which piece it is.
#[derive(Debug, Clone, PartialEq)]
struct TextRun {
    x: f32,
    text: String,
    piece: usize,
}

/// Pieces as lines of a width, broken between words.
fn broken(
    pieces: &[MarkupRun],
    width: f32,
    faces: &dyn Fn(&MarkupRun) -> TextStyle,
    measure: &mut dyn Measure,
) -> Vec<Vec<TextRun>> {
    let mut lines: Vec<Vec<TextRun>> = vec![Vec::new()];
    let (mut x, mut blank) = (0.0_f32, false);
    for (nth, piece) in pieces.iter().enumerate() {
        let face = faces(piece);
        let space = measure.width(". .", &face) - measure.width("..", &face);
        for (row, text) in piece.text.split('\n').enumerate() {
            if row > 0 {
                lines.push(Vec::new());
                (x, blank) = (0.0, false);
            }
            blank |= text.starts_with(char::is_whitespace);
            for word in text.split_whitespace() {
                let wide = measure.width(word, &face);
                let at = if blank && x > 0.0 { x + space } else { x };
                // What hangs together over the border of two pieces is not broken there.
                let fits = at + wide <= width || x == 0.0 || !blank;
                if !fits {
                    lines.push(Vec::new());
                }
                let at = if fits { at } else { 0.0 };
                let line = lines.last_mut().expect("there is one");
                match line.last_mut().filter(|run| run.piece == nth) {
                    Some(run) => run.text = format!("{} {word}", run.text),
                    None => line.push(TextRun { x: at, text: word.to_owned(), piece: nth }),
                }
                (x, blank) = (at + wide, true);
            }
            blank = if text.trim().is_empty() { blank || !text.is_empty() } else { text.ends_with(char::is_whitespace) };
        }
    }
    lines.retain(|line| !line.is_empty());
    lines
}

/// A notice of a width: its styles, its lines, and how high it is.
#[derive(Debug, Clone)]
pub struct NotificationLayout {
    style: ComputedStyle,
    title: ComputedStyle,
    mark: ComputedStyle,
    action: ComputedStyle,
    titles: Vec<String>,
    pieces: Vec<MarkupRun>,
    body: Vec<Vec<TextRun>>,
    /// How large its picture is, and how far that pushes the text.
    picture: f32,
    more: String,
    /// How high it is.
    pub height: f32,
}

/// Where things lie that can be pressed.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct NotificationHitAreas {
    /// What can be done.
    pub actions: Vec<Rect>,
    /// Links, and where they lead.
    pub links: Vec<(String, Rect)>,
}

/// How a piece is set in a style.
fn face_of(piece: &MarkupRun, style: &ComputedStyle) -> TextStyle {
    let underline = piece.underline || piece.link.is_some();
    TextStyle { bold: style.face.bold || piece.bold, underline: style.face.underline || underline, ..style.face.clone() }
}

impl NotificationLayout {
    /// Lays a notice out.
    pub fn of(rice: &Rice, said: &NotificationContent, width: f32, measure: &mut dyn Measure) -> NotificationLayout {
        let states: Vec<ElementState> = said.state.into_iter().collect();
        let kin = StyledElement { kind: "notice", name: "", states: &states };
        let inner = |kind| resolve(rice, &[kin, StyledElement { kind, name: "", states: &states }]);
        let style = resolve(rice, &[kin]);
        let (title, mark, action) = (inner("notice.title"), inner("notice.mark"), inner("notice.action"));
        let pad = style.pad;
        let size = rice.notices.icon_size.0 as f32;
        let picture = if said.picture.is_some() && size > 0.0 { size } else { 0.0 };
        let aside = if picture > 0.0 { picture + BESIDE } else { 0.0 };
        let room = (width - (pad.left + pad.right) as f32 - aside).max(1.0);
        let more = if said.more > 0 { format!("and {} more", said.more) } else { String::new() };
        let taken = if more.is_empty() { 0.0 } else { measure.width(&more, &style.face).ceil() + BESIDE };
        let mut titles: Vec<String> =
            said.title.lines().flat_map(|line| lines(line, (room - taken).max(1.0), &title.face, measure)).collect();
        if titles.len() > MAX_TITLE_LINES {
            titles.truncate(MAX_TITLE_LINES);
            titles[MAX_TITLE_LINES - 1].push('\u{2026}');
        }
        let pieces = match said.pieces.is_empty() {
            true => vec![MarkupRun { text: said.body.clone(), ..MarkupRun::default() }],
            false => said.pieces.clone(),
        };
        let mut body = broken(&pieces, room, &|piece| face_of(piece, &style), measure);
        if body.len() > MAX_BODY_LINES {
            body.truncate(MAX_BODY_LINES);
            if let Some(run) = body[MAX_BODY_LINES - 1].last_mut() {
                run.text.push('\u{2026}');
            }
        }
        let gap = |there: bool| if there { style.gap } else { 0.0 };
        let text = title.face.line() * titles.len() as f32 + style.face.line() * body.len() as f32;
        let text = (text + gap(!titles.is_empty() && !body.is_empty())).max(picture);
        let value = if said.value.is_some() { BAR + 2.0 * style.gap + 4.0 } else { 0.0 };
        let actions = if said.actions.is_empty() { 0.0 } else { action.face.line() + 6.0 };
        let height = (pad.top + pad.bottom) as f32 + text + value + actions;
        NotificationLayout { style, title, mark, action, titles, pieces, body, picture, more, height }
    }
}

/// Draws a notice with its top left corner at a place; where things lie that can be pressed.
pub fn notice(
    rice: &Rice,
    said: &NotificationContent,
    laid: &NotificationLayout,
    (x, y): (f32, f32),
    width: f32,
    scene: &mut Scene,
    measure: &mut dyn Measure,
) -> NotificationHitAreas {
    let (style, pad) = (&laid.style, laid.style.pad);
    let rect = Rect::new(x, y, width, laid.height);
    let mut pressed = NotificationHitAreas::default();
    scene.styled(rect, style, Side::Bottom);
    let mark = Rect::new(x, y + pad.top as f32, MARK, rect.h - (pad.top + pad.bottom) as f32);
    scene.items.push(Primitive::Fill { rect: mark, radius: [0.0; 4], fill: laid.mark.fill.clone() });
    let top = y + pad.top as f32;
    let right = x + width - pad.right as f32;
    let mut left = x + pad.left as f32;
    if let Some(icon) = said.picture.as_ref().filter(|_| laid.picture > 0.0) {
        let sign = StyledIcon { icon: icon.clone(), style: style.clone(), size: laid.picture, width: laid.picture };
        draw_icon(rice, &sign, left, top, scene);
        left += laid.picture + BESIDE;
    }
    let room = right - left;
    let mut at = top;
    if !laid.more.is_empty() {
        let wide = measure.width(&laid.more, &style.face).ceil();
        scene.text(right - wide, at + laid.title.face.line() / 2.0, laid.more.clone(), &style.face, style.ink);
    }
    for text in &laid.titles {
        let line = laid.title.face.line();
        scene.text(left, at + line / 2.0, text.clone(), &laid.title.face, laid.title.ink);
        at += line;
    }
    at += if laid.titles.is_empty() || laid.body.is_empty() { 0.0 } else { style.gap };
    for runs in &laid.body {
        let line = style.face.line();
        for run in runs {
            let piece = &laid.pieces[run.piece];
            let face = face_of(piece, style);
            let ink = if piece.link.is_some() { laid.action.ink } else { style.ink };
            let text = cut(&run.text, room - run.x, &face, measure);
            if let Some(link) = &piece.link {
                let wide = measure.width(&text, &face);
                pressed.links.push((link.clone(), Rect::new(left + run.x, at, wide, line)));
            }
            scene.text(left + run.x, at + line / 2.0, text, &face, ink);
        }
        at += line;
    }
    at = at.max(top + laid.picture);
    if let Some(value) = said.value {
        at += style.gap + 4.0;
        scene.fill(Rect::new(left, at, room, BAR), BAR / 2.0, rice.palette.current.line);
        let full = Rect::new(left, at, (room * value.clamp(0.0, 1.0)).max(BAR), BAR);
        scene.items.push(Primitive::Fill { rect: full, radius: [BAR / 2.0; 4], fill: laid.mark.fill.clone() });
        at += BAR + style.gap;
    }
    let (mut from, line) = (left, laid.action.face.line());
    at += 6.0;
    for label in &said.actions {
        let wide = measure.width(label, &laid.action.face).min((left + room - from).max(0.0));
        pressed.actions.push(Rect::new(from, at, wide, line));
        scene.text(from, at + line / 2.0, label.clone(), &laid.action.face, laid.action.ink);
        from += wide + 18.0;
    }
    pressed
}
