//! What the windows of the stand-in programs show in a look: made-up readings of a tidal survey station.

use jovrik_schema::Colour;
use jovrik_values::{Icon, IconRef, Rect};

use super::PathSegment::{Close, Curve, Line, Move};
use crate::desk::WindowFacts;
use crate::desktop::{ExpireTimeout, Notification, markup};
use crate::launcher::{EntryCommand, LauncherEntry, LauncherList};
use crate::rice::{Rice, Urgency, WindowKind};
use crate::scene::{Measure, Primitive, Scene, TextStyle, cut};

/// Windows that a look shows when nobody says which.
pub fn default_windows() -> Vec<WindowFacts> {
    let window = |app: &str, title: &str, workspace: &str| WindowFacts {
        app_id: app.to_owned(),
        title: title.to_owned(),
        workspace: (!workspace.is_empty()).then(|| workspace.to_owned()),
        ..WindowFacts::default()
    };
    let dialog =
        WindowFacts { window_type: WindowKind::Dialog, size: (420, 190), ..window("sluicegate", "Close gate 2?", "logs") };
    vec![
        window("terminal", "jovrik check", ""),
        window("marshmap", "Creek survey", "field"),
        window("tidechart", "Tide table: neap, station 4", ""),
        window("loghouse", "Gauge log", ""),
        window("tidechart", "Tide table: spring", "logs"),
        window("terminal", "jovrik check", "logs"),
        window("loghouse", "Readings of today", "logs"),
        dialog,
        window("tidechart", "Tide table: neap", "post"),
        window("marshmap", "Creeks, east: state at 06:42", "post"),
        window("gullmail", "Letters (3)", "post"),
        window("loghouse", "Log of the gauges", "post"),
    ]
}

/// What the station's programs tell in a look, the latest first.
pub fn default_tellings() -> Vec<Notification> {
    let told = |id, app: &str, title: &str, body: &str, urgency| Notification {
        id,
        app: app.to_owned(),
        title: title.to_owned(),
        body: body.to_owned(),
        urgency,
        lasts: ExpireTimeout::Ever,
        ..Notification::default()
    };
    let actions = |all: &[(&str, &str)]| all.iter().map(|(key, label)| ((*key).to_owned(), (*label).to_owned())).collect();
    let tide = "Channel 4 dries at 09:00. Bring the boat past the bar before 08:30.";
    vec![
        Notification {
            actions: actions(&[("log", "Show the log"), ("later", "Later")]),
            ..told(4, "loghouse", "Gauge 6 gives no reading", "Last value 2.004 m, 41 minutes ago.", Urgency::Urgent)
        },
        told(3, "tidechart", "Low water in two hours", tide, Urgency::Normal),
        Notification {
            actions: actions(&[("answer", "Answer")]),
            pieces: markup("The gate is yours until <b>nine</b>: <a href=\"https://station.example/gates\">all of today</a>."),
            ..told(2, "gullmail", "The lock", "The gate is yours until nine: all of today.", Urgency::Normal)
        },
        Notification { value: Some(65), ..told(1, "tidechart", "Charts of May", "31 of 48 sheets fetched", Urgency::Normal) },
        told(6, "gullmail", "The yearbook", "The tables of April are in.", Urgency::Normal),
        told(5, "gullmail", "The bar", "A buoy is out of its place.", Urgency::Normal),
    ]
}

/// The programs of the station as a launcher of a look lists them.
pub fn default_apps() -> LauncherList {
    let app = |name: &str, note: &str, icon: Icon, program: &str, more: &[&str]| LauncherEntry {
        note: note.to_owned(),
        icon: IconRef::Drawn(icon),
        program: program.to_owned(),
        more: more
            .iter()
            .map(|more| ((*more).to_owned(), EntryCommand::App(program.to_owned(), Some((*more).to_owned()))))
            .collect(),
        ..LauncherEntry::new(format!("apps/{program}"), name, EntryCommand::App(program.to_owned(), None))
    };
    LauncherList::new(vec![
        app("Creek map", "the marsh and its creeks", Icon::Map, "marshmap", &[]),
        app("Foghorn: signals again", "", Icon::Music, "foghorn", &[]),
        app("Gauge log", "what the gauges said", Icon::List, "loghouse", &["New log", "Log of yesterday"]),
        app("Gullmail: new message", "letters of the station", Icon::Letter, "gullmail", &[]),
        app("Keyboard and language", "layouts, repeat, compose", Icon::Gear, "keyboards", &[]),
        app("Marshmap, navigation", "", Icon::Map, "marshmap-pilot", &[]),
        app("Sluice gates", "opens and closes them", Icon::Gauge, "sluicegate", &[]),
        app("Station clock", "", Icon::Clock, "clock", &[]),
        app("Terminal at gauge 4", "", Icon::Terminal, "terminal", &[]),
        app("Tidechart: gate times", "when each gate can pass", Icon::Tide, "tidechart", &["Spring tides", "Neap tides"]),
        app("Weather at the bar", "wind and swell", Icon::Sun, "weather", &[]),
        app("Yearbook galleys", "tables of the months", Icon::Chart, "yearbook", &[]),
    ])
}

/// The window of each of these workspaces that is in front, by its title.
pub fn in_front(workspace: &str) -> Option<&'static str> {
    match workspace {
        "logs" => Some("jovrik check"),
        "post" => Some("Creeks, east: state at 06:42"),
        _ => None,
    }
}

/// The order in which the windows of the first workspace stand, by app: the chart is the main one.
pub fn pretend(facts: &WindowFacts) -> u8 {
    match facts.app_id.as_str() {
        "tidechart" => 0,
        "loghouse" => 1,
        _ => 2,
    }
}

struct KeySheet<'a> {
    rice: &'a Rice,
    rect: Rect,
    scene: &'a mut Scene,
}

impl KeySheet<'_> {
    fn face(&self, factor: f32) -> TextStyle {
        TextStyle::new(&self.rice.r#type.text, self.rice.r#type.size.0 * factor)
    }

    fn mono(&self) -> TextStyle {
        TextStyle::new(&self.rice.r#type.mono, self.rice.r#type.size.0 * 0.91).mono()
    }
}

/// Draws what a program's window shows, as far as it has room there.
pub fn draw(rice: &Rice, facts: &WindowFacts, rect: Rect, scene: &mut Scene, measure: &mut dyn Measure) {
    if rect.w < 160.0 || rect.h < 120.0 {
        return;
    }
    let mut own = Scene::default();
    contents(rice, facts, rect, &mut own, measure);
    scene.items.extend(own.items.into_iter().filter_map(|item| fitted(item, rect, measure)));
}

/// What of an item has room in a window: a text to its edge, anything else wholly or not at all.
fn fitted(item: Primitive, rect: Rect, measure: &mut dyn Measure) -> Option<Primitive> {
    let inside = |x: f32, y: f32| (rect.x..=rect.x + rect.w).contains(&x) && (rect.y..=rect.y + rect.h).contains(&y);
    let holds = match &item {
        Primitive::Text { x, y, face, .. } => inside(*x, *y - face.line() / 2.0) && inside(*x, *y + face.line() / 2.0),
        Primitive::Stroke { path, .. } | Primitive::Shape { path, .. } => path.iter().all(|step| match *step {
            Move(x, y) | Line(x, y) | Curve(.., x, y) => inside(x, y),
            Close => true,
        }),
        Primitive::Fill { rect: own, .. }
        | Primitive::Border { rect: own, .. }
        | Primitive::Glow { rect: own, .. }
        | Primitive::Picture { rect: own, .. } => inside(own.x, own.y) && inside(own.x + own.w, own.y + own.h),
    };
    Some(match item {
        _ if !holds => return None,
        Primitive::Text { x, y, text, face, colour, turn } => {
            let text = cut(&text, rect.x + rect.w - x, &face, measure);
            Primitive::Text { x, y, text, face, colour, turn }
        }
        other => other,
    })
}

fn contents(rice: &Rice, facts: &WindowFacts, rect: Rect, scene: &mut Scene, measure: &mut dyn Measure) {
    let mut sheet = KeySheet { rice, rect, scene };
    match facts.app_id.as_str() {
        "tidechart" => tide_chart(&mut sheet, measure),
        "loghouse" => log(&mut sheet),
        "terminal" => terminal(&mut sheet, measure),
        "marshmap" => creeks(&mut sheet),
        "sluicegate" => question(&mut sheet, &facts.title, measure),
        _ => title_only(&mut sheet, &facts.title, measure),
    }
}

/// High and low water of the pretended day: hour and metres.
const TURNS: [(f32, f32); 6] = [(-3.5, 0.9), (1.9, 4.63), (9.0, 0.9), (13.8, 4.57), (21.0, 0.8), (26.4, 4.5)];

/// The height of the water at an hour of the pretended day, in metres: half a cosine from turn to turn.
fn level(hour: f32) -> f32 {
    let next = TURNS.iter().position(|turn| turn.0 > hour).unwrap_or(TURNS.len() - 1).max(1);
    let ((from, a), (to, b)) = (TURNS[next - 1], TURNS[next]);
    let part = ((hour - from) / (to - from)).clamp(0.0, 1.0);
    a + (b - a) * (1.0 - (part * std::f32::consts::PI).cos()) / 2.0
}

fn tide_chart(sheet: &mut KeySheet<'_>, measure: &mut dyn Measure) {
    let palette = sheet.rice.palette.current.clone();
    let rect = sheet.rect;
    let (small, plain, large) = (sheet.face(0.82), sheet.face(0.9), sheet.face(1.6));
    let left = rect.x + 40.0;
    sheet.scene.text(left, rect.y + 46.0, "Station 4, north channel", &large, palette.ink);
    sheet.scene.text(left, rect.y + 76.0, "height above datum, metres; ebb, next low water 09:00", &plain, palette.muted);
    let chart = Rect::new(rect.x + 70.0, rect.y + 118.0, rect.w - 120.0, (rect.h - 118.0 - 200.0).max(60.0));
    let x = |hour: f32| chart.x + chart.w * hour / 24.0;
    let y = |metres: f32| chart.y + chart.h * (1.0 - metres / 5.0);
    for metres in 0..=5 {
        let at = y(metres as f32).round();
        sheet.scene.fill(Rect::new(chart.x, at, chart.w, 1.0), 0.0, palette.line);
        sheet.scene.text(chart.x - 22.0, at, metres.to_string(), &small, palette.muted);
    }
    for hour in [0, 4, 8, 12, 16, 20, 24] {
        let text = format!("{hour:02}:00");
        let width = measure.width(&text, &small);
        sheet.scene.text(x(hour as f32) - width / 2.0, chart.y + chart.h + 20.0, text, &small, palette.muted);
    }
    let mut curve = vec![Move(x(0.0), y(level(0.0)))];
    // A cubic through every half hour, with the slopes of the neighbours.
    for half in 0..48 {
        let (from, to) = (half as f32 / 2.0, (half + 1) as f32 / 2.0);
        let slope = |hour: f32| (level(hour + 0.01) - level(hour - 0.01)) / 0.02;
        let third = 0.5 / 3.0;
        let (a, b) = (level(from) + slope(from) * third, level(to) - slope(to) * third);
        curve.push(Curve(x(from + third), y(a), x(to - third), y(b), x(to), y(level(to))));
    }
    let mut water = curve.clone();
    water.extend([Line(x(24.0), y(0.0)), Line(x(0.0), y(0.0)), Close]);
    sheet.scene.items.push(Primitive::Shape { path: water, colour: palette.calm.faded(0.13) });
    sheet.scene.stroke(curve, 2.5, palette.calm);
    let now = 6.0 + 42.0 / 60.0;
    let path = vec![Move(x(now), chart.y), Line(x(now), chart.y + chart.h)];
    sheet.scene.items.push(Primitive::Stroke { path, width: 1.5, colour: palette.accent, dash: Some((2.0, 5.0)) });
    let dot = Rect::new(x(now) - 6.0, y(level(now)) - 6.0, 12.0, 12.0);
    sheet.scene.fill(dot, 6.0, palette.accent);
    sheet.scene.text(x(now) + 14.0, y(level(now)) - 16.0, format!("{:.1} m at 06:42", level(now)), &plain, palette.ink);
    let tides = [("high water", "01:54", level(1.9)), ("low water", "09:00", level(9.0)), ("high water", "13:48", level(13.8))];
    for (nth, (what, time, metres)) in tides.into_iter().enumerate() {
        let left = chart.x + chart.w * nth as f32 / 3.0;
        sheet.scene.text(left, chart.y + chart.h + 68.0, what, &plain, palette.muted);
        sheet.scene.text(left, chart.y + chart.h + 98.0, time, &large, palette.ink);
        let width = measure.width(time, &large);
        sheet.scene.text(
            left + width + 18.0,
            chart.y + chart.h + 99.0,
            format!("{metres:.1} m"),
            &sheet.rice_face(),
            palette.muted,
        );
    }
}

impl KeySheet<'_> {
    fn rice_face(&self) -> TextStyle {
        self.face(1.0)
    }
}

const LOG: [(&str, &str, &str, u8); 9] = [
    ("06:42:10", "gauge 4", "1.914 m", 0),
    ("06:41:10", "gauge 4", "1.931 m", 0),
    ("06:40:58", "link", "mast B answered after 2 tries", 1),
    ("06:40:10", "gauge 4", "1.949 m", 0),
    ("06:39:10", "gauge 4", "1.966 m", 0),
    ("06:38:31", "sluice", "gate 2 closed", 2),
    ("06:38:10", "gauge 4", "1.984 m", 0),
    ("06:37:44", "gauge 6", "no reading", 3),
    ("06:37:10", "gauge 4", "2.003 m", 0),
];

fn log(sheet: &mut KeySheet<'_>) {
    let palette = sheet.rice.palette.current.clone();
    let mono = sheet.mono();
    let colours: [Colour; 4] = [palette.ink, palette.warn, palette.good, palette.alert];
    let rows = ((sheet.rect.h - 40.0) / 27.0) as usize;
    for (nth, (time, who, what, state)) in LOG.iter().cycle().take(rows.min(16)).enumerate() {
        let y = sheet.rect.y + 30.0 + nth as f32 * 27.0;
        let x = sheet.rect.x + 22.0;
        sheet.scene.text(x, y, *time, &mono, palette.muted);
        sheet.scene.text(x + 96.0, y, *who, &mono, palette.muted);
        sheet.scene.text(x + 196.0, y, *what, &mono, colours[usize::from(*state)]);
    }
}

fn terminal(sheet: &mut KeySheet<'_>, measure: &mut dyn Measure) {
    let palette = sheet.rice.palette.current.clone();
    let mono = sheet.mono();
    let cell = measure.width("0123456789", &mono) / 10.0;
    let lines: [&[(&str, Colour)]; 14] = [
        &[("$ ", palette.accent), ("jovrik check", palette.ink)],
        &[],
        &[("error", palette.alert), ("  keys/twice  Lead+Alt+f9 has two actions on the desk", palette.ink)],
        &[("  parts/keys.toml:14:1", palette.calm)],
        &[("  14 | \"Lead+Alt+F9\" = \"close\"", palette.ink)],
        &[("     | ^^^^^^^^^^^^^ closes the window", palette.alert)],
        &[("  parts/mine.toml:3:1", palette.calm)],
        &[("   3 | \"Alt+lead+f9\" = \"go logs\"", palette.ink)],
        &[("     | ^^^^^^^^^^^^^ the same keys, spelled differently", palette.alert)],
        &[("  → jovrik keys settle", palette.accent), ("      the cheapest free place for one", palette.muted)],
        &[],
        &[("1 error.  Read 6 files: 93 settings, 34 bindings.", palette.muted)],
        &[],
        &[("$ ", palette.accent)],
    ];
    let shown = ((sheet.rect.h - 36.0) / 24.0) as usize;
    for (nth, line) in lines.iter().take(shown).enumerate() {
        let y = sheet.rect.y + 30.0 + nth as f32 * 24.0;
        let mut x = sheet.rect.x + 22.0;
        for (text, colour) in *line {
            sheet.scene.text(x, y, *text, &mono, *colour);
            x += text.chars().count() as f32 * cell;
        }
        if nth + 1 == lines.len() {
            sheet.scene.fill(Rect::new(x.round(), y - 9.0, cell.ceil(), 18.0), 0.0, palette.accent);
        }
    }
}

/// A question with two answers.
fn question(sheet: &mut KeySheet<'_>, title: &str, measure: &mut dyn Measure) {
    let palette = sheet.rice.palette.current.clone();
    let (rect, plain) = (sheet.rect, sheet.face(0.9));
    let heading = TextStyle { bold: true, ..sheet.face(1.15) };
    sheet.scene.fill(rect, 0.0, palette.raise);
    let left = rect.x + 26.0;
    sheet.scene.text(left, rect.y + 38.0, title, &heading, palette.ink);
    sheet.scene.text(left, rect.y + 70.0, "A boat is between gauge 4 and the lock.", &plain, palette.muted);
    sheet.scene.text(left, rect.y + 91.0, "The next slack water is at 09:00.", &plain, palette.muted);
    let strong = TextStyle { bold: true, ..plain.clone() };
    let (wide, high, bottom) = (90.0, 32.0, rect.y + rect.h - 52.0);
    let answers = [("Wait", &strong, palette.paper, Some(palette.accent)), ("Close", &plain, palette.ink, None)];
    for (nth, (word, face, ink, fill)) in answers.into_iter().enumerate() {
        let button = Rect::new(rect.x + rect.w - 26.0 - wide - nth as f32 * (wide + 12.0), bottom, wide, high);
        match fill {
            Some(fill) => sheet.scene.fill(button, 6.0, fill),
            None => {
                let line = Primitive::Border { rect: button, radius: [6.0; 4], width: 1.0, fill: palette.line.into() };
                sheet.scene.items.push(line);
            }
        }
        let width = measure.width(word, face);
        sheet.scene.text(button.x + (wide - width) / 2.0, bottom + high / 2.0, word, face, ink);
    }
}

/// Creeks of the flat, with the gauge at the one that is surveyed.
fn creeks(sheet: &mut KeySheet<'_>) {
    let palette = sheet.rice.palette.current.clone();
    let whole = sheet.rect;
    // They stay clear of the edges.
    let rect = Rect::new(whole.x, whole.y + 40.0, whole.w, (whole.h - 80.0).max(40.0));
    let rows = (rect.h / 64.0).max(3.0) as usize;
    let height = |row: usize, along: f32| {
        let (row, count) = (row as f32, rows as f32);
        let middle = rect.y + rect.h * (row + 0.5) / count;
        let reach = rect.h / count;
        middle + reach * 0.45 * (along * 7.0 + row * 0.8).sin() + reach * 0.3 * (along * 17.0 - row * 1.7).sin()
    };
    let surveyed = rows / 2;
    for row in 0..rows {
        let at = |step: usize| (step as f32 / 60.0, rect.x + 24.0 + (rect.w - 48.0) * step as f32 / 60.0);
        let path = (0..=60).map(|step| {
            let (along, x) = at(step);
            if step == 0 { Move(x, height(row, along)) } else { Line(x, height(row, along)) }
        });
        let (width, colour) = if row == surveyed { (2.0, palette.calm) } else { (1.0, palette.line) };
        sheet.scene.stroke(path.collect(), width, colour);
    }
    let (x, y) = (rect.x + 24.0 + (rect.w - 48.0) * 0.5, height(surveyed, 0.5));
    sheet.scene.fill(Rect::new(x - 5.0, y - 5.0, 10.0, 10.0), 5.0, palette.accent);
    let small = sheet.face(0.82);
    sheet.scene.text(x + 12.0, y - 14.0, "gauge 4", &small, palette.ink);
}

fn title_only(sheet: &mut KeySheet<'_>, title: &str, measure: &mut dyn Measure) {
    let face = sheet.face(1.3);
    let width = measure.width(title, &face);
    let rect = sheet.rect;
    sheet.scene.text(rect.x + (rect.w - width) / 2.0, rect.y + rect.h / 2.0, title, &face, sheet.rice.palette.current.muted);
}
