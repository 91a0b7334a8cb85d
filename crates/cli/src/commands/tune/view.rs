//! The screen of `tune`, drawn from its model: parts, settings, a picture, what would be written, keys.

use jovrik_schema::Colour;
use jovrik_schema::catalogue::ReloadPolicy;
use jovrik_toml::parse_value;
use ratatui::Frame;
use ratatui::layout::{Constraint, Layout, Rect};
use ratatui::style::{Color, Modifier, Style};
use ratatui::text::{Line, Span};
use ratatui::widgets::Paragraph;

use super::editor::{Editor, SLIDERS, colour_of};
use super::model::{ChangedLine, Item, Model, Note, TuneMode, in_words};
use super::picture::{Picture, Shot};
use crate::report::{Meaning, width, wrap};

/// How many colours the terminal has.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Depth {
    /// All.
    Full,
    /// The cube of 216 and 24 greys.
    Cube,
    /// The 16 named ones.
    Named,
    /// None.
    None,
}

impl Depth {
    /// By the environment: `NO_COLOR`, `COLORTERM` and `TERM`.
    pub fn of(get: &dyn Fn(&str) -> Option<String>) -> Depth {
        let term = get("TERM").unwrap_or_default();
        match get("COLORTERM").as_deref() {
            _ if get("NO_COLOR").is_some_and(|value| !value.is_empty()) || term == "dumb" => Depth::None,
            Some("truecolor" | "24bit") => Depth::Full,
            _ if term.contains("256color") => Depth::Cube,
            _ => Depth::Named,
        }
    }

    /// A colour of the picture, as near as the terminal comes; nothing where it has none.
    fn colour(self, Colour { r, g, b, .. }: Colour) -> Option<Color> {
        match self {
            Depth::Full => Some(Color::Rgb(r, g, b)),
            Depth::Cube => Some(Color::Indexed(cube(r, g, b))),
            Depth::Named | Depth::None => None,
        }
    }
}

/// The nearest of the colours 16 to 255 that terminals with 256 colours share.
fn cube(r: u8, g: u8, b: u8) -> u8 {
    const STEPS: [i32; 6] = [0, 95, 135, 175, 215, 255];
    let near = |value: u8| (0..6).min_by_key(|at| (STEPS[*at] - i32::from(value)).abs()).unwrap_or(0);
    let (cr, cg, cb) = (near(r), near(g), near(b));
    let grey_at = ((i32::from(r) + i32::from(g) + i32::from(b)) / 3 - 8).clamp(0, 230) / 10;
    let grey = 8 + grey_at * 10;
    let far = |x: i32, y: i32, z: i32| {
        let square = |a: i32, b: u8| (a - i32::from(b)).pow(2);
        square(x, r) + square(y, g) + square(z, b)
    };
    if far(grey, grey, grey) < far(STEPS[cr], STEPS[cg], STEPS[cb]) {
        232 + grey_at as u8
    } else {
        16 + (cr * 36 + cg * 6 + cb) as u8
    }
}

/// Draws the screen.
pub struct View {
    /// How many colours there are.
    pub depth: Depth,
}

impl View {
    fn style(&self, meaning: Meaning) -> Style {
        let plain = Style::new();
        let colour = |colour: Color| if self.depth == Depth::None { plain } else { plain.fg(colour) };
        match meaning {
            Meaning::Heading => plain.add_modifier(Modifier::BOLD),
            Meaning::Error => colour(Color::Red),
            Meaning::Warning => colour(Color::Yellow),
            Meaning::Place => colour(Color::Blue),
            Meaning::Type => colour(Color::Cyan),
            Meaning::Second => plain.add_modifier(Modifier::DIM),
            Meaning::Done => colour(Color::Green),
        }
    }

    /// What is picked stands out also without colours.
    fn picked(&self) -> Style {
        self.style(Meaning::Type).add_modifier(Modifier::REVERSED)
    }

    /// Draws all of it.
    pub fn draw(&self, frame: &mut Frame<'_>, model: &Model, picture: &mut Picture) {
        let area = frame.area();
        if area.width < 60 || area.height < 16 {
            let told = format!("tune wants 60 columns and 16 rows; this terminal has {} and {}", area.width, area.height);
            let lines: Vec<Line<'_>> = wrap(&told, usize::from(area.width.max(8))).into_iter().map(Line::from).collect();
            frame.render_widget(Paragraph::new(lines), area);
            return;
        }
        let [head, _, body, _, below, keys] = Layout::vertical([
            Constraint::Length(1),
            Constraint::Length(1),
            Constraint::Min(8),
            Constraint::Length(1),
            Constraint::Length(2),
            Constraint::Length(1),
        ])
        .areas(inset(area));
        self.head(frame, model, head);
        let wide = body.width / 5 * 2;
        let [parts, list, _, right] = Layout::horizontal([
            Constraint::Length(13),
            Constraint::Min(24),
            Constraint::Length(2),
            Constraint::Length(wide.clamp(28, 100)),
        ])
        .areas(body);
        if let TuneMode::Reading = model.doing {
            self.keys_in_full(frame, body);
        } else {
            self.parts(frame, model, parts);
            self.list(frame, model, list);
            let rows = if right.height >= 24 { right.height / 2 } else { right.height.saturating_sub(9).max(4) };
            let shot = picture.of(model.seen(), model.is_below_windows(), right.width, rows);
            let used = shot.rows.min(right.height);
            self.picture(frame, shot, right);
            let rest = Rect { y: right.y + used + 1, height: right.height.saturating_sub(used + 1), ..right };
            match &model.doing {
                TuneMode::Editing(editor) => self.editor(frame, model, editor, rest),
                _ => self.details(frame, model, rest),
            }
        }
        self.below(frame, model, below);
        self.keys(frame, model, keys);
    }

    fn head(&self, frame: &mut Frame<'_>, model: &Model, area: Rect) {
        let rice = &model.checked.manifest.rice;
        let mut spans = vec![Span::styled(rice.name.clone(), self.style(Meaning::Heading)), Span::raw("  ")];
        match (&model.doing, model.search.as_str()) {
            (TuneMode::Searching, text) => {
                spans.push(Span::styled("search ", self.style(Meaning::Type)));
                spans.push(Span::raw(format!("{text}▏")));
            }
            (_, "") => spans.push(Span::styled("/ searches", self.style(Meaning::Second))),
            (_, text) => {
                spans.push(Span::styled("search ", self.style(Meaning::Second)));
                spans.push(Span::raw(text.to_owned()));
                spans.push(Span::styled("  Esc shows all", self.style(Meaning::Second)));
            }
        }
        frame.render_widget(Line::from(spans), area);
        let changed = model.changed();
        let state = match (changed, model.follow) {
            (0, true) => "written as you go".to_owned(),
            (0, false) => String::new(),
            (some, _) => format!("{} not written", jovrik_text::problem::count(some, "change")),
        };
        let style = if changed > 0 { self.style(Meaning::Warning) } else { self.style(Meaning::Second) };
        frame.render_widget(Line::styled(state, style).right_aligned(), area);
    }

    fn parts(&self, frame: &mut Frame<'_>, model: &Model, area: Rect) {
        let searching = !model.search.is_empty();
        let here = model.chosen().map(|item| item.part().to_owned());
        let first = scroll(model.part, model.parts.len(), usize::from(area.height));
        let lines = model.parts.iter().enumerate().skip(first).take(usize::from(area.height)).map(|(at, part)| {
            let on = if searching { here.as_deref() == Some(*part) } else { at == model.part };
            let tried = model.items.iter().any(|item| item.part() == *part && model.tried(item));
            let mark = if tried { "•" } else { " " };
            let style = if on { self.style(Meaning::Type).add_modifier(Modifier::BOLD) } else { Style::new() };
            Line::from(vec![
                Span::styled(mark, self.style(Meaning::Warning)),
                Span::raw(" "),
                Span::styled((*part).to_owned(), style),
            ])
        });
        frame.render_widget(Paragraph::new(lines.collect::<Vec<_>>()), area);
    }

    fn swatch(&self, model: &Model, item: &Item, value: &str) -> Option<Span<'static>> {
        if !matches!(item.kind.name, "colour" | "fill") {
            return None;
        }
        let text = value.trim_matches('"');
        let colour = colour_of(text, model)?.over(model.seen().rice.palette.current.paper);
        Some(match self.depth.colour(colour) {
            Some(colour) => Span::styled("██ ", Style::new().fg(colour)),
            None => Span::raw(""),
        })
    }

    fn list(&self, frame: &mut Frame<'_>, model: &Model, area: Rect) {
        let shown = model.shown();
        if shown.is_empty() {
            frame.render_widget(Line::styled("no setting holds that", self.style(Meaning::Second)), area);
            return;
        }
        let room = usize::from(area.width);
        let label = |item: &Item| {
            let short = item.path.strip_prefix(&format!("{}.", item.part())).filter(|_| model.search.is_empty());
            short.unwrap_or(&item.path).to_owned()
        };
        let widest = shown.iter().map(|item| width(&label(item))).max().unwrap_or(0);
        let names = widest.min(room * 3 / 5);
        let values = shown.iter().map(|item| width(&plain(&model.value(item)))).max().unwrap_or(0).clamp(8, 24);
        let first = scroll(model.row, shown.len(), usize::from(area.height));
        let editing = match &model.doing {
            TuneMode::Editing(editor) => Some(editor),
            _ => None,
        };
        let lines = shown.iter().enumerate().skip(first).take(usize::from(area.height)).map(|(at, item)| {
            let mark = if model.tried(item) { "• " } else { "  " };
            let value = match editing.filter(|_| at == model.row) {
                Some(editor) => editor.text.clone(),
                None => plain(&model.value(item)),
            };
            let set = model.written(item).is_some();
            let value_style = match (at == model.row, set) {
                (true, _) => self.style(Meaning::Heading),
                (false, true) => Style::new(),
                (false, false) => self.style(Meaning::Second),
            };
            let name_style = if at == model.row { self.picked() } else { Style::new() };
            let name = crate::report::pad(&cut(&label(item), names), names);
            let mut spans =
                vec![Span::styled(mark, self.style(Meaning::Warning)), Span::styled(name, name_style), Span::raw("  ")];
            spans.extend(self.swatch(model, item, &value));
            let used: usize = spans.iter().map(|span| width(&span.content)).sum();
            // Where there is room, the help stands beside the value.
            let most = if room >= 60 { values } else { room };
            let value = cut(&value, room.saturating_sub(used).min(most));
            let value_width = width(&value);
            spans.push(Span::styled(value, value_style));
            if room >= 60 {
                let gap = (names + 4 + 3 + most + 2).saturating_sub(used + value_width);
                let help = cut(item.help(), room.saturating_sub(used + value_width + gap));
                spans.push(Span::raw(" ".repeat(gap)));
                spans.push(Span::styled(help, self.style(Meaning::Second)));
            }
            Line::from(spans)
        });
        frame.render_widget(Paragraph::new(lines.collect::<Vec<_>>()), area);
    }

    fn picture(&self, frame: &mut Frame<'_>, shot: &Shot, area: Rect) {
        const SHADES: [&str; 5] = [" ", "░", "▒", "▓", "█"];
        // Without colours the darkest is empty and the lightest full, whatever they are.
        let light = |c: Colour| u32::from(c.r) * 2 + u32::from(c.g) * 5 + u32::from(c.b);
        let lights = || shot.cells.iter().flat_map(|cell| [light(cell.top), light(cell.bottom)]);
        let (dark, bright) = (lights().min().unwrap_or(0), lights().max().unwrap_or(1));
        let buffer = frame.buffer_mut();
        for (at, cell) in shot.cells.iter().enumerate() {
            let (x, y) = ((at % usize::from(shot.columns)) as u16, (at / usize::from(shot.columns)) as u16);
            if x >= area.width || y >= area.height {
                continue;
            }
            let Some(target) = buffer.cell_mut((area.x + x, area.y + y)) else { continue };
            match (self.depth.colour(cell.top), self.depth.colour(cell.bottom)) {
                (Some(top), Some(bottom)) => {
                    target.set_symbol("▀").set_fg(top).set_bg(bottom);
                }
                _ => {
                    let mean = u32::midpoint(light(cell.top), light(cell.bottom)) - dark;
                    let shade = mean as usize * SHADES.len() / (bright - dark + 1).max(1) as usize;
                    target.set_symbol(SHADES[shade.min(SHADES.len() - 1)]);
                }
            }
        }
    }

    fn details(&self, frame: &mut Frame<'_>, model: &Model, area: Rect) {
        let Some(item) = model.chosen() else { return };
        let room = usize::from(area.width);
        let mut lines = Vec::new();
        let mut say = |text: &str, style: Style| {
            lines.extend(wrap(text, room).into_iter().map(|line| Line::styled(cut(&line, room), style)));
        };
        say(&item.path, self.style(Meaning::Heading));
        if !item.help().is_empty() {
            say(item.help(), Style::new());
        }
        let fact = |name: &str, value: &str| format!("{name:<8} {value}");
        say(&fact("may be", &item.allowed()), self.style(Meaning::Second));
        if let Some(default) = item.default() {
            say(&fact("default", &plain(default)), self.style(Meaning::Second));
        }
        if model.written(item).is_some() {
            say(&fact("is from", &model.place(item)), self.style(Meaning::Place));
        }
        if item.takes() != ReloadPolicy::Immediate {
            say(&fact("effect", item.takes().words()), self.style(Meaning::Warning));
        }
        frame.render_widget(Paragraph::new(lines), area);
    }

    fn editor(&self, frame: &mut Frame<'_>, model: &Model, editor: &Editor, area: Rect) {
        let room = usize::from(area.width);
        let mut lines = vec![Line::styled(cut(&editor.item.path, room), self.style(Meaning::Heading))];
        let before: String = editor.text.chars().take(editor.cursor).collect();
        let after: String = editor.text.chars().skip(editor.cursor).collect();
        // The end of a long text is where one types.
        let start = (width(&before) + 2).saturating_sub(room);
        let before: String = before.chars().skip(start).collect();
        let mut typed = vec![Span::raw(before), Span::styled("▏", self.style(Meaning::Type)), Span::raw(after)];
        if let Some(swatch) = self.swatch(model, &editor.item, &editor.text) {
            typed.insert(0, swatch);
        }
        lines.push(Line::from(typed));
        lines.push(Line::styled(cut(&editor.item.allowed(), room), self.style(Meaning::Second)));
        if let Some(values) = editor.sliders(model).filter(|_| editor.is_colour()) {
            for (at, ((name, _), value)) in SLIDERS.iter().zip(values).enumerate() {
                let held = editor.slider == Some(at);
                let way = room.saturating_sub(12).clamp(4, 40);
                let filled = (value * way as f32).round() as usize;
                let bar = format!("{}{}", "━".repeat(filled), "─".repeat(way - filled.min(way)));
                let style = if held { self.style(Meaning::Type) } else { self.style(Meaning::Second) };
                let mark = if held { "›" } else { " " };
                lines.push(Line::styled(format!("{mark} {name:<6}{bar} {:>3.0}", value * 100.0), style));
            }
        }
        let rows = usize::from(area.height).saturating_sub(lines.len());
        let first = scroll(editor.chosen.unwrap_or(0), editor.choices.len(), rows);
        let widest = editor.choices.iter().map(|choice| width(&choice.value)).max().unwrap_or(0);
        for (at, choice) in editor.choices.iter().enumerate().skip(first).take(rows) {
            let on = editor.chosen == Some(at);
            let style = if on { self.picked() } else { Style::new() };
            let mut spans = vec![Span::raw(if on { "› " } else { "  " })];
            spans.extend(self.swatch(model, &editor.item, &choice.value));
            spans.push(Span::styled(choice.value.clone(), style));
            spans.push(Span::raw(" ".repeat(widest - width(&choice.value) + 2)));
            spans.push(Span::styled(choice.gloss.clone(), self.style(Meaning::Second)));
            lines.push(Line::from(spans));
        }
        frame.render_widget(Paragraph::new(lines), area);
    }

    /// What would be written, or what was said.
    fn below(&self, frame: &mut Frame<'_>, model: &Model, area: Rect) {
        let room = usize::from(area.width);
        let mut lines: Vec<Line<'_>> = Vec::new();
        match (&model.doing, &model.note) {
            (TuneMode::Editing(editor), _) => match &editor.plan {
                Ok(planned) => lines.extend(self.touched(&model.touched(planned), room)),
                Err(why) => lines.extend(
                    wrap(&in_words(why), room).into_iter().take(2).map(|line| Line::styled(line, self.style(Meaning::Error))),
                ),
            },
            (_, Some(Note::Done(text))) => lines.push(Line::styled(cut(text, room), self.style(Meaning::Done))),
            (_, Some(Note::Refused(text))) => {
                lines.extend(wrap(text, room).into_iter().take(2).map(|line| Line::styled(line, self.style(Meaning::Error))));
            }
            _ => {}
        }
        frame.render_widget(Paragraph::new(lines), area);
    }

    fn touched(&self, touched: &[ChangedLine], room: usize) -> Vec<Line<'static>> {
        let Some(one) = touched.iter().find(|one| one.new.is_some()).or(touched.first()) else {
            return vec![Line::styled("writes nothing: it is so already", self.style(Meaning::Second))];
        };
        let more = match touched.len() {
            0 | 1 => String::new(),
            many => format!(", and {} more", jovrik_text::problem::count(many - 1, "line")),
        };
        let line = |word: &str, text: &str, style: Style| {
            let place = format!("{word} {}  ", one.place);
            let room = room.saturating_sub(width(&place) + width(&more));
            Line::from(vec![
                Span::styled(place, self.style(Meaning::Place)),
                Span::styled(cut(text.trim(), room), style),
                Span::styled(if word == "writes" { more.clone() } else { String::new() }, self.style(Meaning::Second)),
            ])
        };
        let mut lines = Vec::new();
        lines.extend(one.new.as_ref().map(|new| line("writes", new, self.style(Meaning::Heading))));
        lines.extend(one.old.as_ref().map(|old| line("over  ", old, self.style(Meaning::Second))));
        lines
    }

    fn keys(&self, frame: &mut Frame<'_>, model: &Model, area: Rect) {
        let keys: &[(&str, &str)] = match &model.doing {
            TuneMode::Browsing => &[
                ("↑↓", "setting"),
                ("←→", "part"),
                ("Enter", "change"),
                ("t", "toggle"),
                ("u", "undo"),
                ("s", "write"),
                ("?", "keys"),
                ("q", "leave"),
            ],
            TuneMode::Searching => &[("Enter", "keeps the words"), ("Esc", "drops them")],
            TuneMode::Reading => &[("any key", "goes back")],
            TuneMode::Editing(editor) if editor.is_colour() => {
                &[("Enter", "takes it"), ("Esc", "leaves it"), ("↑↓", "role"), ("Tab", "slider"), ("←→", "moves it")]
            }
            TuneMode::Editing(editor) if editor.is_place() => {
                &[("Enter", "takes it"), ("Esc", "leaves it"), ("↑↓←→", "move it by 4"), ("PgUp PgDn", "by 40")]
            }
            TuneMode::Editing(editor) if editor.is_number() => {
                &[("Enter", "takes it"), ("Esc", "leaves it"), ("↑↓", "by 1"), ("PgUp PgDn", "by 10")]
            }
            TuneMode::Editing(editor) if !editor.choices.is_empty() => {
                &[("Enter", "takes it"), ("Esc", "leaves it"), ("↑↓", "chooses")]
            }
            TuneMode::Editing(_) => &[("Enter", "takes it"), ("Esc", "leaves it")],
        };
        let mut spans = Vec::new();
        for (key, what) in keys {
            spans.push(Span::styled((*key).to_owned(), self.style(Meaning::Type)));
            spans.push(Span::raw(" "));
            spans.push(Span::styled(format!("{what}  "), self.style(Meaning::Second)));
        }
        frame.render_widget(Line::from(spans), area);
    }

    fn keys_in_full(&self, frame: &mut Frame<'_>, area: Rect) {
        let rows: [(&str, &str); 14] = [
            ("↑ ↓  PgUp PgDn  Home End", "choose a setting"),
            ("← →  Tab", "choose a part"),
            ("/", "search in paths, help and values as you type"),
            ("Enter", "change the value: type it, choose it, or step it"),
            ("t", "turn true and false; comment anything else out, and in again"),
            ("r", "reset: take it out, so that the default holds"),
            ("u", "undo the last change, also one that was written"),
            ("s", "write all changes; every other byte of your files stays"),
            ("f", "follow: write each change at once, so that a running desktop shows it"),
            ("q", "leave; asked again when changes are not written"),
            ("", ""),
            ("while changing: ↑ ↓", "next choice, or a number by 1; PgUp PgDn by 10"),
            ("Tab, then ← →", "hold a slider of a colour, and move it"),
            ("Ctrl+u", "empty the line"),
        ];
        let widest = rows.iter().map(|(keys, _)| width(keys)).max().unwrap_or(0);
        let lines = rows.iter().map(|(keys, what)| {
            let keys = crate::report::pad(keys, widest + 2);
            Line::from(vec![Span::styled(keys, self.style(Meaning::Type)), Span::raw((*what).to_owned())])
        });
        frame.render_widget(Paragraph::new(lines.collect::<Vec<_>>()), area);
    }
}

/// A column of air on both sides.
fn inset(area: Rect) -> Rect {
    Rect { x: area.x + 1, width: area.width.saturating_sub(2), ..area }
}

/// The first row that is shown so that the chosen one is seen.
fn scroll(chosen: usize, count: usize, rows: usize) -> usize {
    chosen.saturating_sub(rows / 2).min(count.saturating_sub(rows))
}

/// A text without its quotes.
fn plain(value: &str) -> String {
    match parse_value(value).as_ref().and_then(|node| node.text()) {
        Some(text) => text.to_owned(),
        None => value.to_owned(),
    }
}

/// A text that fits into so many columns.
fn cut(text: &str, columns: usize) -> String {
    if width(text) <= columns {
        return text.to_owned();
    }
    let mut out = String::new();
    for c in text.chars() {
        if width(&out) + 2 > columns {
            break;
        }
        out.push(c);
    }
    out.push('…');
    out
}
