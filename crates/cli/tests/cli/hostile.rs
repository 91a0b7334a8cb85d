//! Clients that do whatever they like, for a while: nothing of it ends the desktop, and nothing of others is lost.
//!
//! `JOVRIK_HOSTILE_SECONDS=3600` has them go on for an hour.

use std::time::{Duration, Instant};

use x11rb::connection::Connection;
use x11rb::protocol::xproto::{
    AtomEnum, ClientMessageEvent, ConfigureNotifyEvent, ConfigureWindowAux, ConnectionExt, CreateWindowAux, EventMask, PropMode,
    StackMode, UnmapNotifyEvent, Window, WindowClass,
};
use x11rb::rust_connection::RustConnection;
use x11rb::wrapper::ConnectionExt as _;

use crate::live::Screen;

const KINDS: [&str; 20] = [
    "_NET_ACTIVE_WINDOW",
    "_NET_CLOSE_WINDOW",
    "_NET_CURRENT_DESKTOP",
    "_NET_MOVERESIZE_WINDOW",
    "_NET_NUMBER_OF_DESKTOPS",
    "_NET_REQUEST_FRAME_EXTENTS",
    "_NET_RESTACK_WINDOW",
    "_NET_SHOWING_DESKTOP",
    "_NET_STARTUP_INFO",
    "_NET_STARTUP_INFO_BEGIN",
    "_NET_SYSTEM_TRAY_OPCODE",
    "_NET_WM_DESKTOP",
    "_NET_WM_FULLSCREEN_MONITORS",
    "_NET_WM_MOVERESIZE",
    "_NET_WM_STATE",
    "WM_CHANGE_STATE",
    "WM_PROTOCOLS",
    "MANAGER",
    "_XEMBED",
    "_NET_DESKTOP_GEOMETRY",
];

const PROPERTIES: [&str; 19] = [
    "WM_HINTS",
    "WM_NORMAL_HINTS",
    "WM_CLASS",
    "WM_NAME",
    "WM_PROTOCOLS",
    "WM_TRANSIENT_FOR",
    "WM_WINDOW_ROLE",
    "_NET_STARTUP_ID",
    "_NET_WM_DESKTOP",
    "_NET_WM_NAME",
    "_NET_WM_PID",
    "_NET_WM_STATE",
    "_NET_WM_STRUT",
    "_NET_WM_STRUT_PARTIAL",
    "_NET_WM_SYNC_REQUEST_COUNTER",
    "_NET_WM_USER_TIME",
    "_NET_WM_USER_TIME_WINDOW",
    "_NET_WM_WINDOW_OPACITY",
    "_NET_WM_WINDOW_TYPE",
];

/// Numbers without any order, the same in every run (Marsaglia's xorshift).
struct Chance(u64);

impl Chance {
    fn next(&mut self) -> u32 {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        (self.0 >> 16) as u32
    }

    fn one<T: Copy>(&mut self, of: &[T]) -> T {
        of[self.next() as usize % of.len()]
    }

    /// A number that somebody might not expect.
    fn odd(&mut self) -> u32 {
        let own = self.next();
        self.one(&[0, 1, 2, 3, 7, 64, 300, 0xffff, 0x7fff_ffff, 0x8000_0000, u32::MAX, own])
    }
}

struct Client {
    x: RustConnection,
    root: Window,
    own: Vec<Window>,
}

impl Client {
    fn new(display: &str) -> Client {
        let (x, screen) = x11rb::connect(Some(display)).expect("it answers");
        let root = x.setup().roots[screen].root;
        Client { x, root, own: Vec::new() }
    }

    fn atom(&self, name: &str) -> Result<u32, Box<dyn std::error::Error>> {
        Ok(self.x.intern_atom(false, name.as_bytes())?.reply()?.atom)
    }

    /// Any window: one of its own, of others, or none at all.
    fn any(&self, chance: &mut Chance, keeps_off: &[Window]) -> Window {
        let tree = self.x.query_tree(self.root).ok().and_then(|asked| asked.reply().ok()).map(|tree| tree.children);
        let mut all = tree.unwrap_or_default();
        all.extend(&self.own);
        all.extend([self.root, 0, 12_345]);
        all.retain(|window| !keeps_off.contains(window));
        chance.one(&all)
    }

    /// One deed; whether the connection is to be broken off.
    fn does(&mut self, chance: &mut Chance, keeps_off: &[Window]) -> Result<bool, Box<dyn std::error::Error>> {
        let own = if self.own.is_empty() { self.root } else { chance.one(&self.own) };
        let any = self.any(chance, keeps_off);
        match chance.next() % 16 {
            0 | 1 => {
                let window = self.x.generate_id()?;
                let (w, h) = (chance.odd().clamp(1, 30_000) as u16, chance.odd().clamp(1, 30_000) as u16);
                let look = CreateWindowAux::new().override_redirect(u32::from(chance.next().is_multiple_of(7)));
                let (x, y) = (chance.odd() as i16, chance.odd() as i16);
                self.x.create_window(0, window, self.root, x, y, w, h, 3, WindowClass::INPUT_OUTPUT, 0, &look)?;
                self.own.push(window);
                self.x.map_window(window)?;
            }
            2 => drop(self.x.map_window(own)?),
            3 if own != self.root => drop(self.x.unmap_window(own)?),
            4 if own != self.root => {
                self.x.destroy_window(own)?;
                self.own.retain(|window| *window != own);
            }
            5 => {
                let to = ConfigureWindowAux::new().x(chance.odd() as i32).width(chance.odd() & 0xffff);
                let to = to.height(chance.odd() & 0xffff).stack_mode(chance.one(&[StackMode::ABOVE, StackMode::OPPOSITE]));
                self.x.configure_window(own, &to)?;
            }
            6 | 7 if own != self.root => {
                let name = self.atom(chance.one(&PROPERTIES))?;
                let kind =
                    chance.one(&[AtomEnum::ATOM, AtomEnum::CARDINAL, AtomEnum::STRING, AtomEnum::WINDOW, AtomEnum::WM_HINTS]);
                let count = chance.one(&[0, 1, 2, 4, 9, 12, 18, 4000]);
                if chance.next().is_multiple_of(2) {
                    let some: Vec<u32> = (0..count).map(|_| chance.odd()).collect();
                    self.x.change_property32(PropMode::REPLACE, own, name, kind, &some)?;
                } else {
                    let some: Vec<u8> = (0..count * 40).map(|_| chance.next() as u8).collect();
                    self.x.change_property8(PropMode::REPLACE, own, name, kind, &some)?;
                }
            }
            // In a ring.
            8 if self.own.len() > 1 => {
                let (other, name) = (chance.one(&self.own), self.atom("WM_TRANSIENT_FOR")?);
                self.x.change_property32(PropMode::REPLACE, own, name, AtomEnum::WINDOW, &[other])?;
                self.x.change_property32(PropMode::REPLACE, other, name, AtomEnum::WINDOW, &[own])?;
            }
            9 | 10 => {
                let data = [chance.odd(), chance.odd(), chance.odd(), chance.odd(), chance.odd()];
                let kind = self.atom(chance.one(&KINDS))?;
                let to = EventMask::SUBSTRUCTURE_REDIRECT | EventMask::SUBSTRUCTURE_NOTIFY;
                // What it does with windows of others is asked for, never done by force.
                let event = ClientMessageEvent::new(if chance.next().is_multiple_of(5) { 8 } else { 32 }, own, kind, data);
                self.x.send_event(false, self.root, to, event)?;
            }
            11 => {
                let unmap =
                    UnmapNotifyEvent { response_type: 18, sequence: 0, event: self.root, window: own, from_configure: false };
                let to = EventMask::SUBSTRUCTURE_REDIRECT | EventMask::SUBSTRUCTURE_NOTIFY;
                self.x.send_event(false, self.root, to, unmap)?;
                let moved = ConfigureNotifyEvent {
                    response_type: 22,
                    sequence: 0,
                    event: self.root,
                    window: any,
                    above_sibling: 0,
                    x: 0,
                    y: 0,
                    width: 1,
                    height: 65_535,
                    border_width: 9,
                    override_redirect: true,
                };
                self.x.send_event(false, self.root, to, moved)?;
            }
            12 => {
                self.x.grab_server()?;
                self.x.map_window(own)?;
                self.x.ungrab_server()?;
            }
            13 => {
                let target = self.atom(chance.one(&["TARGETS", "MULTIPLE", "TIMESTAMP", "PNG"]))?;
                let selection = self.atom(chance.one(&["WM_S0", "CLIPBOARD", "_NET_SYSTEM_TRAY_S0"]))?;
                self.x.convert_selection(own, selection, target, target, x11rb::CURRENT_TIME)?;
            }
            // Bars and notices of ours.
            14 => {
                let name = self.x.get_property(false, any, AtomEnum::WM_NAME, AtomEnum::ANY, 0, 9)?.reply();
                if name.is_ok_and(|name| name.value.starts_with(b"jovrik")) {
                    self.x.destroy_window(any)?;
                }
            }
            15 if chance.next().is_multiple_of(9) => return Ok(true),
            _ => {}
        }
        self.x.flush()?;
        Ok(false)
    }
}

#[test]
fn whatever_clients_do_nothing_ends_and_nothing_of_others_is_lost() {
    let asked = std::env::var("JOVRIK_HOSTILE_SECONDS").ok().and_then(|seconds| seconds.parse().ok());
    let lasts = Duration::from_secs(asked.unwrap_or(20));
    let mut screen = Screen::new(false);
    let _one = screen.xterm();
    let _two = screen.xterm();
    let process = screen.ask("health")["process"].clone();
    let own = |screen: &Screen| -> Vec<String> {
        let windows = screen.ask("windows");
        let all = windows.as_array().expect("a list").iter().filter(|window| window["app"] == "XTerm");
        all.map(|window| window["window"].to_string()).collect()
    };
    let before = own(&screen);
    let number = |text: &String| u32::from_str_radix(text.trim_matches('"').trim_start_matches("0x"), 16).expect("a number");
    // What is held in ours is found through that.
    let mut keeps_off: Vec<Window> = before.iter().map(number).collect();
    for window in keeps_off.clone() {
        keeps_off.push(screen.x.query_tree(window).expect("asked").reply().expect("it is there").parent);
    }
    let (began, mut chance, mut deeds) = (Instant::now(), Chance(0x5eed_cafe), 0_u64);
    let mut clients: Vec<Client> = (0..3).map(|_| Client::new(&screen.name)).collect();
    while began.elapsed() < lasts {
        let at = chance.next() as usize % clients.len();
        let ends = clients[at].does(&mut chance, &keeps_off).unwrap_or(true);
        if ends || clients[at].own.len() > 24 {
            clients[at] = Client::new(&screen.name);
        }
        deeds += 1;
        // So that it is not only the server that is kept busy.
        if deeds.is_multiple_of(64) {
            screen.ask("health");
        }
    }
    drop(clients);
    screen.wait("only the others are left", |screen| screen.count() == 2);
    assert_eq!(own(&screen), before, "after {deeds} deeds");
    assert_eq!(screen.ask("health")["process"], process, "it is the same one");
    screen.tell("go charts");
    screen.tell("layout main");
    screen.wait("and all goes on", |screen| screen.areas().len() == 2);
    assert!(deeds > 500, "{deeds}");
}

#[test]
fn a_server_that_closes_ends_it_with_3_and_a_clear_message() {
    let mut server = std::process::Command::new("Xvfb");
    server.args(["-displayfd", "1", "-screen", "0", "640x480x24", "-noreset", "-nolisten", "tcp"]);
    let mut server = server.stdout(std::process::Stdio::piped()).stderr(std::process::Stdio::null()).spawn().expect("Xvfb");
    let mut name = String::new();
    let out = server.stdout.take().expect("its output");
    std::io::BufRead::read_line(&mut std::io::BufReader::new(out), &mut name).expect("a number");
    let (desk, display) = (crate::Desk::of("[bar.top]\nthick = 30\n"), format!(":{}", name.trim()));
    let mut live = desk.command(&desk.rice(), &["live"]);
    let live = live.env("DISPLAY", &display).stdout(std::process::Stdio::null()).stderr(std::process::Stdio::piped());
    let live = live.spawn().expect("it runs");
    let asks = || desk.command(&desk.rice(), &["ask", "health"]).env("DISPLAY", &display).output().expect("it runs");
    let began = Instant::now();
    while !asks().status.success() && began.elapsed() < Duration::from_secs(20) {
        std::thread::sleep(Duration::from_millis(50));
    }
    server.kill().expect("ended");
    server.wait().expect("it ended");
    let ended = live.wait_with_output().expect("it ended");
    let said = String::from_utf8_lossy(&ended.stderr);
    assert_eq!(ended.status.code(), Some(3), "{said}");
    assert!(said.contains("the X server is gone"), "{said}");
    assert_eq!(asks().status.code(), Some(3), "nothing answers where it was");
}
