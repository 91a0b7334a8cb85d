//! Devices and keys as the rice sets them; and a rice in a window of the desktop that one has.

use std::io::BufRead as _;
use std::process::{Command, Stdio};

use x11rb::connection::Connection;
use x11rb::protocol::xinput::{ConnectionExt as _, DeviceType, XIChangePropertyAux, XIGetPropertyItems};
use x11rb::protocol::xkb::{self, ConnectionExt as _};
use x11rb::protocol::xproto::{AtomEnum, PropMode};
use x11rb::wrapper::ConnectionExt as _;

use crate::live::{Program, Screen};
use crate::windows::atom;

fn bare(rice: &str) -> Screen {
    let mut server = Command::new("Xvfb");
    server.args(["-displayfd", "1", "-screen", "0", "1000x800x24", "-noreset", "-nolisten", "tcp"]);
    Screen::on(server, rice)
}

#[test]
fn devices_are_set_by_their_properties_and_go_back() {
    let rice = "[input.gauge]\nmatch = \"Xvfb mouse\"\nspeed = 0.5\nacceleration = \"flat\"\nnatural-scroll = true\ntap = true\n";
    let mut screen = bare(rice);
    screen.x.xinput_xi_query_version(2, 2).expect("asked").reply().expect("XInput 2");
    let devices = screen.x.xinput_xi_query_device(0_u16).expect("asked").reply().expect("devices").infos;
    let of = |name: &str| {
        let found = devices.iter().find(|device| device.name == name.as_bytes() && device.type_ == DeviceType::SLAVE_POINTER);
        found.expect("a device").deviceid
    };
    let (mouse, other) = (of("Xvfb mouse"), of("Virtual core XTEST pointer"));
    // What the driver of real devices has.
    let (speed, natural) = (atom(&screen, "libinput Accel Speed"), atom(&screen, "libinput Natural Scrolling Enabled"));
    let (profile, float) = (atom(&screen, "libinput Accel Profile Enabled"), atom(&screen, "FLOAT"));
    let put = |screen: &Screen, device: u16, property: u32, kind: u32, count: u32, items: &XIChangePropertyAux| {
        screen.x.xinput_xi_change_property(device, PropMode::REPLACE, property, kind, count, items).expect("set");
    };
    let whole = u32::from(AtomEnum::INTEGER);
    for device in [mouse, other] {
        put(&screen, device, speed, float, 1, &XIChangePropertyAux::Data32(vec![0_f32.to_bits()]));
        put(&screen, device, natural, whole, 1, &XIChangePropertyAux::Data8(vec![0]));
        put(&screen, device, profile, whole, 2, &XIChangePropertyAux::Data8(vec![1, 0]));
    }
    screen.x.sync().expect("sent");
    let get = |screen: &Screen, device: u16, property: u32| {
        let asked = screen.x.xinput_xi_get_property(device, false, property, 0_u32, 0, 9).expect("asked");
        match asked.reply().expect("it is there").items {
            XIGetPropertyItems::Data8(bytes) => bytes.into_iter().map(u32::from).collect::<Vec<_>>(),
            XIGetPropertyItems::Data32(words) => words,
            _ => vec![],
        }
    };
    screen.start(&[]);
    screen.wait("it is as fast", |screen| get(screen, mouse, speed) == [0.5_f32.to_bits()]);
    assert_eq!((get(&screen, mouse, natural), get(&screen, mouse, profile)), (vec![1], vec![0, 1]));
    assert_eq!((get(&screen, other, speed), get(&screen, other, natural)), (vec![0], vec![0]), "the other is not meant");
    assert_eq!(screen.ask("health")["devices-amiss"], serde_json::json!(["Xvfb mouse has no tapping"]));
    screen.save(&rice.replace("speed = 0.5\n", "").replace("tap = true\n", ""));
    screen.wait("it goes back", |screen| get(screen, mouse, speed) == [0]);
    assert_eq!(get(&screen, mouse, natural), [1], "the rest stays");
    screen.wait("nothing is amiss", |screen| screen.ask("health")["devices-amiss"] == serde_json::json!([]));
}

#[test]
fn keys_are_sticky_slow_or_bounce() {
    let mut screen = bare("[keyboard]\nsticky = true\nslow = \"200ms\"\nbounce = \"150ms\"\n");
    screen.x.xkb_use_extension(1, 0).expect("asked").reply().expect("XKB");
    screen.start(&[]);
    let on = |screen: &Screen| {
        let device = u16::from(xkb::ID::USE_CORE_KBD);
        let now = screen.x.xkb_get_controls(device).expect("asked").reply().expect("controls");
        let is = |control: xkb::BoolCtrl| u32::from(now.enabled_controls) & u32::from(control) != 0;
        let [sticky, slow, bounce] = [xkb::BoolCtrl::STICKY_KEYS, xkb::BoolCtrl::SLOW_KEYS, xkb::BoolCtrl::BOUNCE_KEYS].map(is);
        (sticky, slow.then_some(now.slow_keys_delay), bounce.then_some(now.debounce_delay))
    };
    assert_eq!(on(&screen), (true, Some(200), Some(150)));
    screen.save("[keyboard]\nbounce = \"150ms\"\n");
    screen.wait("only one is left", |screen| on(screen) == (false, None, Some(150)));
}

#[test]
fn a_rice_opens_in_a_window_of_the_desktop_that_runs() {
    let mut screen = bare("[keys.desk]\n\"Lead+F7\" = \"layout next\"\n\"Lead+F8\" = \"quit\"\n");
    screen.start(&[]);
    let mut command = screen.desk.command(&screen.desk.rice(), &["live", "--nested", "640x480"]);
    let spawned = command.env("DISPLAY", &screen.name).stdout(Stdio::piped()).spawn();
    let mut inner = Program(spawned.expect("it runs"));
    let mut lines = std::io::BufReader::new(inner.0.stdout.take().expect("its output")).lines();
    let mut line = || lines.next().expect("a line").expect("text");
    assert_eq!(line(), "the desktop outside has Super+Button1, Super+Button3, Super+F7 and Super+F8");
    assert_eq!(line(), "so Lead is Alt in this window");
    assert_eq!(line(), "  → jovrik tell ACTION      does what a key would do");
    let name = line();
    let display = name.rsplit(' ').next().expect("a display").to_owned();
    assert_ne!(display, screen.name);
    screen.wait("its window is on the desk", |screen| screen.count() == 1);
    let (x, number) = x11rb::connect(Some(&display)).expect("it answers");
    let size = &x.setup().roots[number];
    // It lies in a tile of the desk outside, and follows that.
    assert!(size.width_in_pixels >= 640);
    let inside = screen.desk.command(&screen.desk.rice(), &["tell", "quit"]).env("DISPLAY", &display).output();
    assert!(inside.expect("it runs").status.success());
    assert_eq!(inner.0.wait().expect("it ended").code(), Some(0));
    screen.wait("the window is gone", |screen| screen.count() == 0);
    let command = screen.desk.run(&["live", "--nested", "12x9"]);
    assert_eq!(command.code, 2, "{}", command.err);
}
