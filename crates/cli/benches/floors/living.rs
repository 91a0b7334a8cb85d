//! The running desktop: from a save to changed pixels, a chord, windows that are mapped, and how often it wakes up.

use std::io::Read;
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use x11rb::connection::Connection;
use x11rb::protocol::Event as Happens;
use x11rb::protocol::xproto::{
    ChangeWindowAttributesAux, ConfigureWindowAux, ConnectionExt, CreateWindowAux, EventMask, GrabMode, ImageFormat,
    KEY_PRESS_EVENT, KEY_RELEASE_EVENT, ModMask, WindowClass,
};
use x11rb::protocol::xtest::ConnectionExt as _;

use super::{PROGRAM, at_home, median, median_of, tell};

struct Ended(Child);

impl Drop for Ended {
    fn drop(&mut self) {
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

/// Keysyms, as X has them.
const SUPER: u32 = 0xffeb;
const SHIFT: u32 = 0xffe1;
const LEFT: u32 = 0xff51;
const RIGHT: u32 = 0xff53;

/// The code of the key that gives a keysym.
fn key_of(x: &impl Connection, sym: u32) -> u8 {
    let (first, last) = (x.setup().min_keycode, x.setup().max_keycode);
    let map = x.get_keyboard_mapping(first, last - first + 1).expect("asked").reply().expect("a map");
    let rows = map.keysyms.chunks(usize::from(map.keysyms_per_keycode));
    first + rows.into_iter().position(|row| row.contains(&sym)).expect("such a key") as u8
}

/// A chord and how long until a window is elsewhere: from the key that goes down until the server tells of the move.
fn chord(x: &impl Connection, root: u32, window: u32, runs: usize) -> Duration {
    let [lead, shift, left, right] = [SUPER, SHIFT, LEFT, RIGHT].map(|sym| key_of(x, sym));
    let fake = |kind, key| drop(x.xtest_fake_input(kind, key, 0, root, 0, 0, 0).expect("asked"));
    fake(KEY_PRESS_EVENT, lead);
    fake(KEY_PRESS_EVENT, shift);
    let mut turn = false;
    let time = median_of(runs, || {
        turn = !turn;
        let key = if turn { left } else { right };
        while x.poll_for_event().expect("it answers").is_some() {}
        let began = Instant::now();
        fake(KEY_PRESS_EVENT, key);
        x.flush().expect("sent");
        loop {
            match x.wait_for_event().expect("it answers") {
                Happens::ConfigureNotify(event) if event.window == window => break,
                _ => {}
            }
        }
        let took = began.elapsed();
        fake(KEY_RELEASE_EVENT, key);
        x.flush().expect("sent");
        std::thread::sleep(Duration::from_millis(100));
        took
    });
    fake(KEY_RELEASE_EVENT, shift);
    fake(KEY_RELEASE_EVENT, lead);
    x.flush().expect("sent");
    time
}

/// The same by a program that does nothing but that: it hears two keys, and two windows as large as tiles change their places.
fn bare_chord(display: &str) -> Duration {
    let (x, screen) = x11rb::connect(Some(display)).expect("it answers");
    let root = x.setup().roots[screen].root;
    // As the sample lays two tiles: where each begins, and how wide it is.
    let [left, right] = [(14, 1034), (1060, 846)];
    let both = [left, right].map(|(at, wide)| {
        let window = x.generate_id().expect("a number");
        let look = CreateWindowAux::new().background_pixel(x.setup().roots[screen].white_pixel);
        let look = look.event_mask(EventMask::STRUCTURE_NOTIFY);
        x.create_window(0, window, root, at as i16, 46, wide as u16, 1020, 0, WindowClass::INPUT_OUTPUT, 0, &look)
            .expect("asked");
        x.map_window(window).expect("asked").check().expect("mapped");
        window
    });
    let window = both[0];
    let name = display.to_owned();
    let (told, hears) = std::sync::mpsc::channel();
    let bare = std::thread::spawn(move || {
        let (x, _) = x11rb::connect(Some(&name)).expect("it answers");
        for sym in [LEFT, RIGHT] {
            let way = GrabMode::ASYNC;
            x.grab_key(true, root, ModMask::ANY, key_of(&x, sym), way, way).expect("asked").check().expect("it is free");
        }
        let told_of = ChangeWindowAttributesAux::new().event_mask(EventMask::STRUCTURE_NOTIFY);
        x.change_window_attributes(window, &told_of).expect("asked").check().expect("it is there");
        told.send(()).expect("heard");
        let mut places = [right, left];
        loop {
            match x.wait_for_event().expect("it answers") {
                Happens::KeyPress(_) => {
                    for (window, (at, wide)) in both.into_iter().zip(places) {
                        let place = ConfigureWindowAux::new().x(at).width(wide as u32);
                        x.configure_window(window, &place).expect("asked");
                    }
                    places.reverse();
                    x.flush().expect("sent");
                }
                Happens::DestroyNotify(_) => break,
                _ => {}
            }
        }
    });
    hears.recv().expect("it listens");
    let time = chord(&x, root, window, 40);
    both.into_iter().for_each(|window| x.destroy_window(window).expect("asked").check().expect("gone"));
    // Its keys are given back before anybody else asks for them.
    bare.join().expect("it ended");
    time
}

/// Windows that are mapped all at once: how long until all are in, and what each costs of the desktop's own time.
fn mapping(x: &impl Connection, root: u32, desktop: u32, count: &dyn Fn() -> usize) {
    // Time on a processor as the scheduler counts it, in nanoseconds: ticks of the clock miss what is shorter than they are.
    let spent = || -> f64 {
        let stat = std::fs::read_to_string(format!("/proc/{desktop}/schedstat")).unwrap_or_default();
        stat.split_whitespace().next().and_then(|nanos| nanos.parse::<f64>().ok()).unwrap_or(0.0) / 1e6
    };
    for (many, apart) in [(5, true), (30, true), (50, false), (100, false), (200, false)] {
        let (before, began, start) = (count(), Instant::now(), spent());
        let windows: Vec<u32> = (0..many).map(|_| x.generate_id().expect("a number")).collect();
        for window in &windows {
            let (class, look) = (WindowClass::INPUT_OUTPUT, CreateWindowAux::new());
            x.create_window(0, *window, root, 0, 0, 200, 100, 0, class, 0, &look).expect("asked");
            x.map_window(*window).expect("asked");
            if apart {
                x.flush().expect("sent");
                std::thread::sleep(Duration::from_millis(20));
            }
        }
        x.flush().expect("sent");
        while count() < before + many {
            std::thread::sleep(Duration::from_millis(2));
        }
        let took = began.elapsed();
        std::thread::sleep(Duration::from_millis(200));
        let own = (spent() - start) / many as f64;
        let how = if apart { "apart" } else { "at once" };
        println!(
            "{many:>4} windows {how:<7}: all in after {:>6.0} ms, {own:.2} ms of processor each",
            took.as_secs_f64() * 1000.0
        );
        windows.iter().for_each(|window| drop(x.destroy_window(*window).expect("asked")));
        x.flush().expect("sent");
        while count() > before {
            std::thread::sleep(Duration::from_millis(2));
        }
    }
}

pub fn living(folder: &Path) {
    let server = Command::new("Xvfb")
        .args(["-displayfd", "1", "-screen", "0", "1920x1080x24", "-noreset", "-nolisten", "tcp"])
        .stdout(Stdio::piped())
        .stderr(Stdio::null())
        .spawn();
    let Ok(mut server) = server else {
        println!("no Xvfb here: the live desktop is not measured");
        return;
    };
    let mut display = String::from(":");
    let mut out = server.stdout.take().expect("its output");
    let mut byte = [0];
    while out.read(&mut byte).expect("a number") == 1 && byte[0] != b'\n' {
        display.push(char::from(byte[0]));
    }
    let _server = Ended(server);
    let bare = bare_chord(&display);
    let runtime = tempfile::tempdir().expect("a folder");
    let live = at_home(PROGRAM)
        .arg("live")
        .current_dir(folder)
        .env("DISPLAY", &display)
        .env("XDG_RUNTIME_DIR", runtime.path())
        .stdout(Stdio::null())
        .spawn();
    let live = Ended(live.expect("it runs"));
    std::thread::sleep(Duration::from_millis(1500));
    let _windows: Vec<Ended> = (0..2)
        .filter_map(|_| at_home("xterm").args(["-e", "sleep", "100"]).env("DISPLAY", &display).spawn().ok().map(Ended))
        .collect();
    std::thread::sleep(Duration::from_millis(1500));
    let (x, screen) = x11rb::connect(Some(&display)).expect("it answers");
    let root = x.setup().roots[screen].root;
    let pixel = |at: (i16, i16)| {
        x.get_image(ImageFormat::Z_PIXMAP, root, at.0, at.1, 1, 1, !0).expect("asked").reply().expect("a pixel").data
    };
    let path = folder.join("parts/look.toml");
    let text = std::fs::read_to_string(&path).expect("the sample");
    let ask = |what: &str| -> serde_json::Value {
        let socket = jovrik_live::socket_path(runtime.path(), &display);
        jovrik_live::request(&socket, &serde_json::json!({ "ask": what })).expect("it answers")
    };
    let focused = ask("windows")
        .as_array()
        .and_then(|all| all.iter().find(|one| one["focused"] == true).cloned())
        .expect("a window has the focus");
    let area: Vec<i16> = focused["area"].as_str().expect("an area").split(['x', '+']).filter_map(|n| n.parse().ok()).collect();
    let frame = (area[2] - 1, area[3] + area[1] / 2);
    let paper = (4, 4);
    for (what, at, from, to) in [
        ("a frame's colour", frame, "active = \"@accent\"", "active = \"@calm\""),
        ("the whole palette", paper, "use = \"ebb\"", "use = \"noon\""),
    ] {
        let mut turn = false;
        let time = median(40, || {
            turn = !turn;
            let before = pixel(at);
            let new = if turn { text.replace(from, to) } else { text.clone() };
            std::fs::write(path.with_extension("new"), new).expect("written");
            let _ = std::fs::rename(path.with_extension("new"), &path);
            while pixel(at) == before {
                std::thread::sleep(Duration::from_micros(200));
            }
        });
        println!("save to changed pixels: {what:<20}{:>9.2} ms   {}", time.as_secs_f64() * 1000.0, ask("health")["stages"]);
    }
    // The holder of a window is its parent.
    let window = u32::from_str_radix(focused["window"].as_str().expect("a number").trim_start_matches("0x"), 16).expect("hex");
    let holder = x.query_tree(window).expect("asked").reply().expect("it is there").parent;
    let told_of = ChangeWindowAttributesAux::new().event_mask(EventMask::STRUCTURE_NOTIFY);
    x.change_window_attributes(holder, &told_of).expect("asked");
    x.change_window_attributes(window, &told_of).expect("asked");
    let moved = chord(&x, root, holder, 60);
    tell("a chord, until a window has moved", moved, "a program that only moves them", bare);
    let sized = chord(&x, root, window, 60);
    tell("a chord, until its program hears of it", sized, "a program that only moves them", bare);
    mapping(&x, root, live.0.id(), &|| ask("windows").as_array().map_or(0, Vec::len));
    let wakeups = || ask("health")["wake-ups"].as_u64().unwrap_or(0);
    let before = wakeups();
    std::thread::sleep(Duration::from_secs(20));
    println!("wake-ups in 20 s, modules every 2 s, 5 s and 1 min: {} (two of them the question)", wakeups() - before);
    let status = std::fs::read_to_string(format!("/proc/{}/status", live.0.id())).unwrap_or_default();
    let resident = status.lines().find(|line| line.starts_with("VmRSS")).unwrap_or("VmRSS unknown");
    println!("resident: {}", resident.trim_start_matches("VmRSS:").trim());
}
