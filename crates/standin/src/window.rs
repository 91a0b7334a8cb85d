//! A window of the station's programs: it draws what looks pretend, in the colours that the server has for programs.

use jovrik_core::check::{Files, UnknownHost, check};
use jovrik_core::desk::WindowFacts;
use jovrik_core::rice::Rice;
use jovrik_core::scene::{Scene, draw_pretended};
use jovrik_draw::{Brush, Canvas, FontPlaces};
use jovrik_schema::Colour;
use jovrik_values::Rect;
use x11rb::connection::{Connection, RequestConnection};
use x11rb::protocol::Event;
use x11rb::protocol::xproto::{
    Atom, AtomEnum, ChangeWindowAttributesAux, ClientMessageEvent, ConnectionExt, CreateGCAux, CreateWindowAux, EventMask,
    ImageFormat, ImageOrder, PropMode, Window, WindowClass,
};
use x11rb::rust_connection::RustConnection;
use x11rb::wrapper::ConnectionExt as _;

/// Why there is no window.
pub type Failure = Box<dyn std::error::Error>;

x11rb::atom_manager! {
    /// The names that it needs.
    Names: NamesCookie {
        UTF8_STRING,
        WM_DELETE_WINDOW,
        WM_PROTOCOLS,
        _NET_WM_NAME,
        _NET_WM_PID,
        _NET_WM_PING,
        _NET_WM_WINDOW_TYPE,
        _NET_WM_WINDOW_TYPE_DIALOG,
        _NET_STARTUP_ID,
    }
}

/// What a window is.
#[derive(Debug, Clone)]
pub struct Shows {
    /// Which program it plays.
    pub app: String,
    /// Its title.
    pub title: String,
    /// Whether it is a dialog.
    pub dialog: bool,
}

/// What holds where nothing is said.
fn plain() -> std::rc::Rc<Rice> {
    check(Files::default(), &[], &UnknownHost).rice
}

/// The rice of somebody who only knows the resources of the server: its roles by the colours of terminals.
fn dressed(rice: &Rice, resources: &str) -> Rice {
    let of = |name: &str| -> Option<Colour> {
        let line =
            resources.lines().find(|line| line.strip_prefix('*').is_some_and(|rest| rest.starts_with(&format!("{name}:"))))?;
        Colour::css(line.split_once(':')?.1.trim())
    };
    let mut rice = rice.clone();
    let palette = &mut rice.palette.current;
    let roles = [
        (&mut palette.paper, "background"),
        (&mut palette.ink, "foreground"),
        (&mut palette.accent, "cursorColor"),
        (&mut palette.raise, "color0"),
        (&mut palette.alert, "color1"),
        (&mut palette.good, "color2"),
        (&mut palette.warn, "color3"),
        (&mut palette.calm, "color4"),
        (&mut palette.muted, "color7"),
        (&mut palette.line, "color8"),
    ];
    for (role, name) in roles {
        *role = of(name).unwrap_or(*role);
    }
    rice
}

struct Screen {
    x: RustConnection,
    root: Window,
    depth: u8,
    names: Names,
}

impl Screen {
    fn resources(&self) -> Result<String, Failure> {
        let asked = self.x.get_property(false, self.root, AtomEnum::RESOURCE_MANAGER, AtomEnum::STRING, 0, 1 << 16)?;
        Ok(String::from_utf8_lossy(&asked.reply()?.value).into_owned())
    }

    fn make(&self, shows: &Shows, rice: &Rice) -> Result<Window, Failure> {
        let (c, n, window) = (&self.x, &self.names, self.x.generate_id()?);
        let (w, h) = if shows.dialog { (420, 190) } else { (900, 620) };
        let events = EventMask::EXPOSURE | EventMask::STRUCTURE_NOTIFY;
        let paper = rice.palette.current.paper;
        let ground = u32::from(paper.r) << 16 | u32::from(paper.g) << 8 | u32::from(paper.b);
        let look = CreateWindowAux::new().event_mask(events).background_pixel(ground);
        c.create_window(0, window, self.root, 0, 0, w, h, 0, WindowClass::INPUT_OUTPUT, 0, &look)?;
        let class = format!("{0}\0{0}\0", shows.app);
        c.change_property8(PropMode::REPLACE, window, AtomEnum::WM_CLASS, AtomEnum::STRING, class.as_bytes())?;
        c.change_property8(PropMode::REPLACE, window, n._NET_WM_NAME, n.UTF8_STRING, shows.title.as_bytes())?;
        c.change_property8(PropMode::REPLACE, window, AtomEnum::WM_NAME, AtomEnum::STRING, shows.title.as_bytes())?;
        let protocols = [n.WM_DELETE_WINDOW, n._NET_WM_PING];
        c.change_property32(PropMode::REPLACE, window, n.WM_PROTOCOLS, AtomEnum::ATOM, &protocols)?;
        let process = [std::process::id()];
        c.change_property32(PropMode::REPLACE, window, n._NET_WM_PID, AtomEnum::CARDINAL, &process)?;
        if let Ok(start) = std::env::var("DESKTOP_STARTUP_ID") {
            c.change_property8(PropMode::REPLACE, window, n._NET_STARTUP_ID, n.UTF8_STRING, start.as_bytes())?;
        }
        if shows.dialog {
            let kind = [n._NET_WM_WINDOW_TYPE_DIALOG];
            c.change_property32(PropMode::REPLACE, window, n._NET_WM_WINDOW_TYPE, AtomEnum::ATOM, &kind)?;
        }
        c.map_window(window)?;
        c.flush()?;
        Ok(window)
    }

    fn paint(&self, window: Window, (w, h): (u16, u16), rice: &Rice, shows: &Shows, brush: &mut Brush) -> Result<(), Failure> {
        let facts = WindowFacts { app_id: shows.app.clone(), title: shows.title.clone(), ..WindowFacts::default() };
        let whole = Rect::new(0.0, 0.0, f32::from(w), f32::from(h));
        let mut scene = Scene::default();
        scene.fill(whole, 0.0, rice.palette.current.paper);
        draw_pretended(rice, &facts, whole, &mut scene, &mut brush.fonts);
        let mut canvas = Canvas::new(w.into(), h.into()).ok_or("no memory for a picture")?;
        canvas.draw(&scene, (0.0, 0.0), brush);
        let c = &self.x;
        let gc = c.generate_id()?;
        c.create_gc(gc, window, &CreateGCAux::new())?;
        let lsb = c.setup().image_byte_order == ImageOrder::LSB_FIRST;
        let line = usize::from(w) * 4;
        let rows = ((c.maximum_request_bytes().min(1 << 18) - 64) / line).max(1);
        for (nth, piece) in canvas.bytes().chunks(rows * line).enumerate() {
            let pixel = |rgba: &[u8]| {
                let number = u32::from(rgba[0]) << 16 | u32::from(rgba[1]) << 8 | u32::from(rgba[2]);
                if lsb { number.to_le_bytes() } else { number.to_be_bytes() }
            };
            let bytes: Vec<u8> = piece.chunks_exact(4).flat_map(pixel).collect();
            let (top, high) = ((nth * rows) as i16, (piece.len() / line) as u16);
            c.put_image(ImageFormat::Z_PIXMAP, window, gc, w, high, 0, top, 0, self.depth, &bytes)?;
        }
        c.free_gc(gc)?;
        c.flush()?;
        Ok(())
    }
}

/// Shows a window on `$DISPLAY` until it is closed.
pub fn show(shows: &Shows) -> Result<(), Failure> {
    let (x, number) = x11rb::connect(None)?;
    let (root, depth) = (x.setup().roots[number].root, x.setup().roots[number].root_depth);
    let names = Names::new(&x)?.reply()?;
    let screen = Screen { x, root, depth, names };
    let listen = ChangeWindowAttributesAux::new().event_mask(EventMask::PROPERTY_CHANGE);
    screen.x.change_window_attributes(root, &listen)?;
    let plain = plain();
    let mut rice = dressed(&plain, &screen.resources()?);
    let window = screen.make(shows, &rice)?;
    let mut brush = Brush::new(FontPlaces::usual(None), std::path::Path::new("."));
    let mut size = (1, 1);
    let resources = Atom::from(AtomEnum::RESOURCE_MANAGER);
    loop {
        let mut stale = false;
        let mut next = Some(screen.x.wait_for_event()?);
        while let Some(event) = next {
            match event {
                Event::Expose(event) => stale |= event.window == window,
                Event::ConfigureNotify(event) if event.window == window => {
                    let new = (event.width.max(1), event.height.max(1));
                    stale |= std::mem::replace(&mut size, new) != new;
                }
                Event::PropertyNotify(event) if event.atom == resources => {
                    rice = dressed(&plain, &screen.resources()?);
                    stale = true;
                }
                Event::ClientMessage(event) if event.type_ == screen.names.WM_PROTOCOLS => {
                    let data = event.data.as_data32();
                    if data[0] == screen.names.WM_DELETE_WINDOW {
                        return Ok(());
                    } else if data[0] == screen.names._NET_WM_PING {
                        let answer = ClientMessageEvent::new(32, root, screen.names.WM_PROTOCOLS, data);
                        let to = EventMask::SUBSTRUCTURE_REDIRECT | EventMask::SUBSTRUCTURE_NOTIFY;
                        screen.x.send_event(false, root, to, answer)?;
                    }
                }
                Event::DestroyNotify(event) if event.window == window => return Ok(()),
                _ => {}
            }
            next = screen.x.poll_for_event()?;
        }
        if stale && size != (1, 1) {
            screen.paint(window, size, &rice, shows, &mut brush)?;
        }
        screen.x.flush()?;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn colours_are_those_of_the_server_as_far_as_it_has_some() {
        let plain = plain();
        let rice = dressed(&plain, "XTerm*background: white\n*background: #102030\n*color8: #304044\n*color1: nonsense\n");
        let palette = &rice.palette.current;
        assert_eq!((palette.paper.hex(), palette.line.hex()), ("#102030".to_owned(), "#304044".to_owned()));
        assert_eq!(palette.alert, plain.palette.current.alert);
    }
}
