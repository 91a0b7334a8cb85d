//! How near Jovrik comes to the bare minimum, measured with the same libraries in the same run. Nothing here fails.
//!
//! `cargo bench -p jovrik`, or of one part such as `cargo bench -p jovrik -- searching`; the live part needs Xvfb and xterm.

#![expect(clippy::print_stdout, reason = "a bench tells what it measured")]

mod living;

use std::hint::black_box;
use std::path::Path;
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use jovrik_core::bar::{BarInput, arrange};
use jovrik_core::check::{Files, UnknownHost, check};
use jovrik_core::desk::{MonitorFacts, WindowFacts, WindowId, WindowManager, WmEvent};
use jovrik_core::desktop::Desktop;
use jovrik_core::keys::{KeyboardLayouts, TraceContext, Tracer, fights};
use jovrik_core::launcher::{EntryCommand, Finder, LauncherEntry, LauncherList};
use jovrik_core::machine::Machine;
use jovrik_core::scene::{Primitive, Scene, default_windows, seen, strip_area};
use jovrik_core::stage::Headless;
use jovrik_draw::{Brush, Canvas, FontPlaces, encode};
use jovrik_text::Source;
use jovrik_values::chord::ChordSequence;
use jovrik_values::{FieldValue, PixelRect, Values};

const PROGRAM: &str = env!("CARGO_BIN_EXE_jovrik");

/// The median time of some runs.
fn median(runs: usize, mut work: impl FnMut()) -> Duration {
    let mut times: Vec<Duration> = (0..runs)
        .map(|_| {
            let began = Instant::now();
            work();
            began.elapsed()
        })
        .collect();
    times.sort_unstable();
    times[runs / 2]
}

/// The median of times that some runs tell by themselves.
fn median_of(runs: usize, mut work: impl FnMut() -> Duration) -> Duration {
    let mut times: Vec<Duration> = (0..runs).map(|_| work()).collect();
    times.sort_unstable();
    times[runs / 2]
}

fn tell(what: &str, time: Duration, floor: &str, bare: Duration) {
    let (ms, floor_ms) = (time.as_secs_f64() * 1000.0, bare.as_secs_f64() * 1000.0);
    println!("{what:<44}{ms:>9.2} ms   {floor:<34}{floor_ms:>9.2} ms   ratio {:.2}", ms / floor_ms);
}

/// A program in a home of the bench alone: the person's own is not touched.
fn at_home(program: &str) -> Command {
    static HOME: std::sync::OnceLock<tempfile::TempDir> = std::sync::OnceLock::new();
    let home = HOME.get_or_init(|| tempfile::tempdir().expect("a folder"));
    let mut command = Command::new(program);
    for name in ["XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_DATA_HOME", "JOVRIK_RICE"] {
        command.env_remove(name);
    }
    command.env("HOME", home.path()).env("XDG_RUNTIME_DIR", home.path());
    command
}

fn run(folder: &Path, arguments: &[&str]) {
    let status = at_home(PROGRAM).args(arguments).current_dir(folder).stdout(Stdio::null()).status();
    assert!(status.expect("it runs").code().is_some());
}

/// A rice of about 5,000 lines with 2,000 bindings.
fn large() -> String {
    let letters: Vec<char> = ('a'..='z').collect();
    let mut text = String::from("[keys.desk]\n");
    for nth in 0..2000 {
        let (a, b, c) = (letters[nth % 26], letters[nth / 26 % 26], letters[nth / 676 % 26]);
        text.push_str(&format!(
            "# binding number {nth}\n\"Lead+{a} {b} {c}\" = {{ do = \"focus next\", note = \"number {nth}\" }}\n"
        ));
    }
    for nth in 0..330 {
        text.push_str(&format!("\n[workspace.w{nth}]\nlayouts = [\"main\", \"solo\"]\n"));
    }
    text
}

fn checking(folder: &Path) {
    let version = median(60, || run(folder, &["--version"]));
    tell("check the sample, whole process", median(60, || run(folder, &["check"])), "jovrik --version", version);
    tell("settings, whole process", median(60, || run(folder, &["settings"])), "jovrik --version", version);
    let complete = || {
        let mut command = at_home(PROGRAM);
        command.args(["--", "jovrik", "set", "bar."]).current_dir(folder);
        command.env("JOVRIK_COMPLETE", "bash").env("_CLAP_COMPLETE_INDEX", "2").env("_CLAP_IFS", "\n");
        let offered = command.output().expect("it runs").stdout;
        assert!(offered.windows(13).any(|bytes| bytes == b"bar.top.thick"), "{}", String::from_utf8_lossy(&offered));
    };
    tell("paths for the shell, whole process", median(60, complete), "jovrik --version", version);
    let text = large();
    println!("a generated rice: {} lines, 2000 bindings", text.lines().count());
    let ours = median(40, || {
        let files = Files {
            manifest: Some(Source::new("rice.toml", "[rice]\nname = \"large\"\n")),
            parts: vec![Source::new("parts/a.toml", text.clone())],
            ..Files::default()
        };
        let checked = check(files, &[], &UnknownHost);
        assert_eq!((checked.errors(), checked.counts.bindings), (0, 2000));
    });
    let bare = median(40, || {
        black_box(toml_edit::Document::parse(text.as_str()).expect("TOML"));
    });
    tell("check it, in the process", ours, "toml_edit parses the same text", bare);
}

/// Letters of a text among 100,000 names, one key press after another; beside a plain look at all letters.
fn searching() {
    let words = ["gauge", "tide", "sluice", "marsh", "chart", "log", "creek", "letter", "survey", "buoy"];
    let name = |nth: usize| format!("{} {} of {} {nth}", words[nth % 10], words[nth / 10 % 10], words[nth / 100 % 10]);
    let all = (0..100_000).map(|nth| LauncherEntry::new(format!("{nth}"), name(nth), EntryCommand::Line(nth))).collect();
    let entries = std::rc::Rc::new(LauncherList::new(all));
    let typed = ["g", "ga", "gau", "gaug", "gauge", "gauge c", "gauge cr", "gauge cre"];
    for typed in typed {
        let pressed = median_of(9, || {
            let mut finder = Finder::new(entries.clone(), &std::collections::HashMap::new());
            finder.find(&typed[..typed.len() - 1]);
            let began = Instant::now();
            finder.find(typed);
            black_box((0..9).filter_map(|nth| finder.nth(nth)).collect::<Vec<_>>());
            began.elapsed()
        });
        let bare = median(9, || {
            let letters = typed.as_bytes();
            let found = entries.all.iter().filter(|entry| letters.iter().all(|letter| entry.name.as_bytes().contains(letter)));
            black_box(found.count());
        });
        tell(&format!("a key press among 100,000 entries: {typed}"), pressed, "looks for each letter", bare);
    }
}

/// So many things of one kind, each naming the next or one of another kind; the last is named wrongly by all.
fn many(kind: &str, number: usize) -> Files {
    let letters: Vec<char> = ('a'..='z').collect();
    let chord = |nth: usize| {
        let letter = |by: usize| letters[nth / by % 26];
        format!("Lead+{} {} {} {}", letter(1), letter(26), letter(676), letter(17_576))
    };
    let all = |one: &dyn Fn(usize) -> String| (0..number).map(one).collect::<String>();
    let names = |name: &str| (0..number).map(|nth| format!("\"{name}{nth}\"")).collect::<Vec<_>>().join(", ");
    let mut manifest = "[rice]\nname = \"many\"\n".to_owned();
    let text = match kind {
        "programs" => {
            manifest.push_str(&format!("[needs]\nprograms = [{}]\n", names("p")));
            format!("[program]\n{}", all(&|nth| format!("n{nth} = \"p{nth}\"\n")))
        }
        "references" => all(&|nth| format!("[module.m{nth}]\ntext = \"=module.m{}.empty\"\nempty = \"x\"\n", (nth + 1) % number)),
        "bindings" => {
            let bound = all(&|nth| format!("\"{}\" = \"go w{nth}\"\n", chord(nth)));
            format!("[workspaces]\norder = [{}]\n[keys.desk]\n{bound}", names("w"))
        }
        "modules" => {
            let made = all(&|nth| format!("[module.m{nth}]\nsource = \"cpu\"\ntext = \"{{load}}\"\n"));
            format!("{made}[bar.top]\nend = [{}]\n", names("m"))
        }
        "rules" => all(&|nth| format!("[rule.r{nth}]\nmatch = {{ app = \"a{nth}\" }}\nset = {{ float = true }}\n")),
        "wrong names" => {
            let bound = all(&|nth| format!("\"{}\" = \"go x{nth}\"\n", chord(nth)));
            format!("[workspaces]\norder = [{}]\n[keys.desk]\n{bound}", names("w"))
        }
        _ => String::new(),
    };
    let mut files = Files {
        manifest: Some(Source::new("rice.toml", manifest)),
        parts: vec![Source::new("parts/a.toml", text)],
        ..Files::default()
    };
    if kind == "overlays" {
        for nth in 0..number {
            let text = format!("[overlay]\nwhen = {{ host = \"h{nth}\" }}\n[space]\nedge = {}\n", nth % 100);
            files.overlays.push(Source::new(format!("overlays/o{nth}.toml"), text));
        }
    }
    files
}

/// How checking grows with what there is: four times as much should take about four times as long.
fn growing() {
    println!("check of 2500, 5000 and 10000 things of one kind (overlays: 250, 500 and 1000); the last against the first");
    for kind in ["programs", "references", "bindings", "modules", "rules", "overlays", "wrong names"] {
        let less = if kind == "overlays" { 10 } else { 1 };
        let times = [2500, 5000, 10_000].map(|number| {
            let files = many(kind, number / less);
            median(5, || drop(black_box(check(files.clone(), &[], &UnknownHost))))
        });
        let [a, b, c] = times.map(|time| time.as_secs_f64() * 1000.0);
        println!("  {kind:<14}{a:>9.1} ms {b:>9.1} ms {c:>9.1} ms   {:.1} times", c / a);
    }
}

/// A rice of 5,000 bindings in 20 scopes with 500 fights: 250 a scope, 25 of them spelled twice with another meaning.
fn fighting() -> String {
    let keys: Vec<String> = ('a'..='z').chain('0'..='9').map(String::from).chain((1..=12).map(|nth| format!("F{nth}"))).collect();
    let held = ["Ctrl", "Alt", "Ctrl+Shift", "Alt+Shift", "Level3", "Level3+Ctrl", "Level3+Alt", "Level3+Ctrl+Shift"];
    let mut text: String = (1..20).map(|nth| format!("[scope.s{nth}]\ninside = \"program{nth}\"\n")).collect();
    for scope in 0..20_usize {
        let (name, lead) = if scope == 0 { ("desk".to_owned(), "Super+") } else { (format!("s{scope}"), "") };
        text.push_str(&format!("[keys.{name}]\n"));
        let chords: Vec<(String, &String)> =
            held.iter().flat_map(|held| keys.iter().map(move |key| (format!("{lead}{held}"), key))).collect();
        // Steps of a number that shares no factor with how many there are: spread over the keyboard, each once.
        let spread = |nth: usize| &chords[(nth * 89 + scope * 31) % chords.len()];
        for nth in 0..225 {
            let (held, key) = spread(nth);
            text.push_str(&format!("\"{held}+{key}\" = \"{}\"\n", if scope == 0 { "close" } else { "one" }));
        }
        for nth in 0..25 {
            let (held, key) = spread(nth);
            let other = if scope == 0 { "kill" } else { "two" };
            text.push_str(&format!("\"{}+{key}\" = \"{other}\"\n", held.to_lowercase()));
        }
    }
    text
}

/// Clash, settle and trace.
fn keying() {
    let folder = tempfile::tempdir().expect("a folder");
    let rice = folder.path();
    std::fs::create_dir(rice.join("parts")).expect("a folder");
    std::fs::write(rice.join("rice.toml"), "[rice]\nname = \"fighting\"\n").expect("written");
    let text = fighting();
    std::fs::write(rice.join("parts/keys.toml"), &text).expect("written");
    let version = median(30, || run(rice, &["--version"]));
    tell("clash, 5000 bindings, 500 fights, process", median(20, || run(rice, &["keys", "clash"])), "jovrik --version", version);
    tell("settle them, process", median(20, || run(rice, &["keys", "settle"])), "jovrik --version", version);
    let files = Files {
        manifest: Some(Source::new("rice.toml", "[rice]\nname = \"fighting\"\n")),
        parts: vec![Source::new("parts/keys.toml", text)],
        ..Files::default()
    };
    let checked = check(files, &[], &UnknownHost);
    let keyboards = KeyboardLayouts::new(Vec::new(), true);
    assert_eq!(fights(&checked.scopes, &keyboards).len(), 500);
    let asking = TraceContext { focus: Some("program7".to_owned()), modes: Vec::new() };
    let tracer = Tracer::new(&checked.scopes, keyboards.first(), &asking).expect("it can be traced");
    let chord = ChordSequence::parse("Ctrl+q", "Super").expect("a chord");
    let traced = median(200, || {
        black_box(tracer.clone().follow(&chord).expect("a key makes it"));
    });
    let bare = median(200, || {
        black_box(tracer.clone());
    });
    tell("trace a press among them, in the process", traced, "copying who listens", bare);
}

/// Fills the same boxes, shapes the same text and encodes the picture, with nothing else.
fn bare_look(scene: &Scene, fonts: &mut cosmic_text::FontSystem, width: u32, height: u32) {
    let mut pixels = tiny_skia::Pixmap::new(width, height).expect("a size");
    for item in &scene.items {
        match item {
            Primitive::Fill { rect, fill, .. } | Primitive::Border { rect, fill, .. } => {
                let (_, colour) = fill.colours()[0];
                let mut paint = tiny_skia::Paint::default();
                paint.set_color_rgba8(colour.r, colour.g, colour.b, colour.a);
                if let Some(rect) = tiny_skia::Rect::from_xywh(rect.x, rect.y, rect.w, rect.h) {
                    pixels.fill_rect(rect, &paint, tiny_skia::Transform::identity(), None);
                }
            }
            Primitive::Text { text, face, .. } => {
                let size = face.points * 96.0 / 72.0;
                let mut buffer = cosmic_text::Buffer::new(fonts, cosmic_text::Metrics::new(size, size * 1.4));
                let attrs = cosmic_text::Attrs::new().family(cosmic_text::Family::Name(&face.family));
                buffer.set_text(text, &attrs, cosmic_text::Shaping::Advanced, None);
                buffer.shape_until_scroll(fonts, false);
                black_box(buffer.layout_runs().count());
            }
            _ => {}
        }
    }
    let mut out = Vec::new();
    let mut encoder = png::Encoder::new(&mut out, width, height);
    encoder.set_color(png::ColorType::Rgb);
    encoder.set_compression(png::Compression::Fast);
    encoder.set_filter(png::Filter::Paeth);
    let rgb: Vec<u8> = pixels.data().chunks_exact(4).flat_map(|pixel| [pixel[0], pixel[1], pixel[2]]).collect();
    let mut writer = encoder.write_header().expect("a header");
    writer.write_image_data(&rgb).expect("pixels");
    writer.finish().expect("an end");
    black_box(out);
}

/// A desktop with the default windows.
fn furnished(checked: &jovrik_core::check::CheckedRice, monitors: Vec<MonitorFacts>) -> Desktop {
    let mut desktop = Desktop::new(checked.rice.clone(), checked.scopes.clone(), monitors);
    let mut stage = Headless::default();
    let known = Machine::plain().known(&checked.rice);
    stage.tell(&mut desktop, jovrik_core::desktop::DesktopEvent::Values(known), Duration::ZERO);
    for (nth, facts) in default_windows().into_iter().enumerate() {
        let appears = WmEvent::Mapped(WindowId(nth as u32 + 1), facts);
        stage.tell(&mut desktop, jovrik_core::desktop::DesktopEvent::Wm(appears), Duration::ZERO);
    }
    desktop
}

fn looking(folder: &Path) {
    let checked = jovrik_home::check_folder(folder, &[], &UnknownHost);
    let desktop = furnished(&checked, Machine::plain().monitors());
    let places = || FontPlaces::usual(None);
    let mut brush = Brush::new(places(), folder);
    let scene = seen(&desktop, 0, &mut brush.fonts);
    let mut db = cosmic_text::fontdb::Database::new();
    db.load_fonts_dir("/usr/share/fonts");
    let mut system = cosmic_text::FontSystem::new_with_locale_and_db("en".to_owned(), db);
    bare_look(&scene, &mut system, 1920, 1080);
    let bare = median(15, || bare_look(&scene, &mut system, 1920, 1080));
    let cold = median(15, || {
        let mut brush = Brush::new(places(), folder);
        let scene = seen(&desktop, 0, &mut brush.fonts);
        let mut canvas = Canvas::new(1920, 1080).expect("a size");
        canvas.draw(&scene, (0.0, 0.0), &mut brush);
        black_box(encode(&canvas).expect("a picture"));
    });
    tell("look at 1920x1080, fonts found each time", cold, "fill, shape, encode (fonts loaded)", bare);
    let warm = median(15, || {
        let scene = seen(&desktop, 0, &mut brush.fonts);
        let mut canvas = Canvas::new(1920, 1080).expect("a size");
        canvas.draw(&scene, (0.0, 0.0), &mut brush);
        black_box(encode(&canvas).expect("a picture"));
    });
    tell("look at 1920x1080, fonts loaded", warm, "fill, shape, encode (fonts loaded)", bare);
    large_look(folder, &checked);
    one_module(folder, &checked);
    all_widgets(folder, &checked);
    let process = median(15, || run(folder, &["look", "--size", "1920x1080", "--out", "bench.png"]));
    println!("look at 1920x1080, whole process            {:>9.2} ms", process.as_secs_f64() * 1000.0);
}

/// The same at 3840x2160, with a gradient and translucent bars.
fn large_look(folder: &Path, plain: &jovrik_core::check::CheckedRice) {
    let with = [
        ("backdrop.fill".to_owned(), "linear-gradient(160deg, @paper, @raise)".to_owned()),
        ("style.bar.fill".to_owned(), "@paper/85%".to_owned()),
    ];
    let checked = jovrik_home::check_folder(folder, &with, &UnknownHost);
    let mut monitors = Machine::plain().monitors();
    monitors[0].area = PixelRect::new(0, 0, 3840, 2160);
    let mut brush = Brush::new(FontPlaces::usual(None), folder);
    for (what, checked) in [("plain", plain), ("with a gradient and a translucent bar", &checked)] {
        let desktop = furnished(checked, monitors.clone());
        let scene = seen(&desktop, 0, &mut brush.fonts);
        let mut db = cosmic_text::fontdb::Database::new();
        db.load_fonts_dir("/usr/share/fonts");
        let mut system = cosmic_text::FontSystem::new_with_locale_and_db("en".to_owned(), db);
        let bare = median(9, || bare_look(&scene, &mut system, 3840, 2160));
        let ours = median(9, || {
            let scene = seen(&desktop, 0, &mut brush.fonts);
            let mut canvas = Canvas::new(3840, 2160).expect("a size");
            canvas.draw(&scene, (0.0, 0.0), &mut brush);
            black_box(encode(&canvas).expect("a picture"));
        });
        tell(&format!("look at 3840x2160, {what}"), ours, "fill, shape, encode", bare);
    }
}

/// One module of a bar redrawn: arranged, compared, drawn; against its pixels alone.
fn one_module(folder: &Path, checked: &jovrik_core::check::CheckedRice) {
    let rice = &checked.rice;
    let desk = WindowManager::new(rice.clone(), Machine::plain().monitors());
    let mut brush = Brush::new(FontPlaces::usual(None), folder);
    let mut known = Machine::plain().known(rice);
    let bar = &rice.bar["top"];
    let mut old = arrange(&desk, 0, "top", bar, BarInput::of(&known), &mut brush.fonts);
    let mut nth = 0.0;
    let ours = median(300, || {
        nth += 1.0;
        let load = Values::one("load", FieldValue::Number(20.0 + nth % 60.0)).and("cores", FieldValue::Number(4.0));
        known.insert("cpu".to_owned(), load);
        let strip = arrange(&desk, 0, "top", bar, BarInput::of(&known), &mut brush.fonts);
        for area in strip.damage(&old) {
            let mut canvas = Canvas::new(area.w as u32, area.h as u32).expect("a size");
            canvas.draw(&strip_area(rice, &strip, area), (area.x, area.y), &mut brush);
            black_box(canvas.bytes().len());
        }
        old = strip;
    });
    let shown = old.modules.iter().find(|shown| shown.name == "cpu").expect("it is shown").clone();
    let area = shown.rect.grown(4.0);
    let mut strip = old.clone();
    strip.modules = vec![shown];
    let bare = median(300, || {
        let mut canvas = Canvas::new(area.w as u32, 32).expect("a size");
        canvas.draw(&strip_area(rice, &strip, area), (area.x, 0.0), &mut brush);
        black_box(canvas.bytes().len());
    });
    tell("one module of a bar redrawn", ours, "the same pixels, drawn alone", bare);
}

/// All widgets of the sample with other values: arranged, and those that differ drawn; against their pixels alone.
fn all_widgets(folder: &Path, checked: &jovrik_core::check::CheckedRice) {
    let desk = WindowManager::new(checked.rice.clone(), Machine::plain().monitors());
    let mut brush = Brush::new(FontPlaces::usual(None), folder);
    let mut known = Machine::plain().known(&checked.rice);
    let mut made = jovrik_core::widget::WidgetCache::default();
    let mut old = jovrik_core::widget::arrange(&desk, 0, &BarInput::of(&known), &mut brush.fonts, &mut made);
    let draw = |one: &jovrik_core::widget::PlacedWidget, brush: &mut Brush| {
        let mut canvas = Canvas::new(one.rect.w as u32, one.rect.h as u32).expect("a size");
        canvas.draw(&one.scene, (one.rect.x, one.rect.y), brush);
        black_box(canvas.bytes().len());
    };
    let (mut nth, mut changed) = (0.0, Vec::new());
    let ours = median(300, || {
        nth += 1.0;
        let load = Values::one("load", FieldValue::Number(20.0 + nth % 60.0)).and("cores", FieldValue::Number(4.0));
        known.insert("cpu".to_owned(), load);
        let new = jovrik_core::widget::arrange(&desk, 0, &BarInput::of(&known), &mut brush.fonts, &mut made);
        changed = new.iter().filter(|one| !old.contains(one)).cloned().collect();
        changed.iter().for_each(|one| draw(one, &mut brush));
        old = new;
    });
    let bare = median(300, || changed.iter().for_each(|one| draw(one, &mut brush)));
    tell("widgets of the sample, one value other", ours, "the same pixels, drawn alone", bare);
}

/// One event on a workspace of many windows, with ten times as many elsewhere.
fn deciding() {
    let checked = jovrik_core::check::check(many("programs", 1), &[], &jovrik_core::check::UnknownHost);
    for (here, elsewhere) in [(1_000, 0), (1_000, 10_000)] {
        let mut desktop = Desktop::new(checked.rice.clone(), checked.scopes.clone(), Machine::plain().monitors());
        let mut stage = Headless::default();
        let mut tell = |event| stage.tell(&mut desktop, jovrik_core::desktop::DesktopEvent::Wm(event), Duration::ZERO);
        // Those elsewhere come first, so that nothing is arranged for them again and again.
        for nth in 0..here + elsewhere {
            let workspace = (nth < elsewhere).then(|| "two".to_owned());
            tell(WmEvent::Mapped(WindowId(nth as u32 + 1), WindowFacts { workspace, ..WindowFacts::default() }));
        }
        let mut turn = false;
        let time = median(200, || {
            turn = !turn;
            tell(WmEvent::ActivationRequested(WindowId((elsewhere + here) as u32 - u32::from(turn))));
        });
        println!("the focus among {here} windows, {elsewhere} elsewhere: {:>6.3} ms", time.as_secs_f64() * 1000.0);
    }
}

fn main() {
    // `cargo test --benches` only wants to know that it builds.
    if !std::env::args().any(|argument| argument == "--bench") {
        return;
    }
    let folder = tempfile::tempdir().expect("a folder");
    let rice = folder.path().join("rice");
    jovrik_home::new_rice(&rice, jovrik_home::sample_files("saltmarsh").expect("a sample")).expect("written");
    // A word is the beginning of what is measured alone.
    let only = std::env::args().skip(1).find(|argument| !argument.starts_with('-')).unwrap_or_default();
    let all: [(&str, &dyn Fn()); 7] = [
        ("checking", &|| checking(&rice)),
        ("growing", &growing),
        ("keying", &keying),
        ("deciding", &deciding),
        ("searching", &searching),
        ("looking", &|| looking(&rice)),
        ("living", &|| living::living(&rice)),
    ];
    all.iter().filter(|(name, _)| name.starts_with(&only)).for_each(|(_, measure)| measure());
}
