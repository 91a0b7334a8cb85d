//! What an X server tells of its computer: monitors and keyboard layouts.

use jovrik_core::desk::MonitorFacts;
use jovrik_core::keys::RuleNames;
use jovrik_values::PixelRect;
use x11rb::connection::Connection;
use x11rb::protocol::randr::ConnectionExt as _;
use x11rb::protocol::xproto::{AtomEnum, ConnectionExt as _, Window};

use super::connection::{X11Connection, connect};
use crate::Error;

/// The monitors of a display (RandR 1.5), or its whole screen; `None` when it cannot be asked.
pub fn monitors(display: &str) -> Option<Vec<MonitorFacts>> {
    let (connection, screen) = connect(display).ok()?;
    let screen = connection.setup().roots.get(screen)?;
    let size = (screen.width_in_pixels, screen.height_in_pixels);
    monitors_of(&connection, screen.root, size).ok()
}

pub(crate) fn monitors_of(connection: &X11Connection, root: Window, size: (u16, u16)) -> Result<Vec<MonitorFacts>, Error> {
    let whole = || {
        let area = PixelRect::new(0, 0, i32::from(size.0), i32::from(size.1));
        vec![MonitorFacts::new("screen", area)]
    };
    let Ok(reply) = connection.randr_get_monitors(root, true)?.reply() else { return Ok(whole()) };
    let mut monitors: Vec<MonitorFacts> = Vec::new();
    for monitor in reply.monitors {
        let area =
            PixelRect::new(i32::from(monitor.x), i32::from(monitor.y), i32::from(monitor.width), i32::from(monitor.height));
        let name = connection.get_atom_name(monitor.name)?.reply().map(|reply| String::from_utf8_lossy(&reply.name).into_owned());
        if area.w > 0 && area.h > 0 {
            let maker = monitor.outputs.first().map(|output| super::outputs::maker(connection, *output)).transpose()?;
            let facts = MonitorFacts::new(name.unwrap_or_else(|_| "screen".to_owned()), area);
            monitors.push(MonitorFacts { primary: monitor.primary, maker: maker.unwrap_or_default(), ..facts });
        }
    }
    Ok(if monitors.is_empty() { whole() } else { monitors })
}

/// The keyboard of a display, as its root window's `_XKB_RULES_NAMES` has it; nothing where there is none.
pub fn keyboard(display: &str) -> RuleNames {
    let layouts = || {
        let (connection, screen) = connect(display).ok()?;
        let root = connection.setup().roots.get(screen)?.root;
        Some(rules_of(&connection, root))
    };
    layouts().unwrap_or_default()
}

/// The same of a connection that is there: rules, model, layouts, variants and options, each ended by a zero byte (the
/// convention of all who set up keyboards with XKB rules).
pub(crate) fn rules_of(connection: &X11Connection, root: Window) -> RuleNames {
    let names = || {
        let atom = connection.intern_atom(true, b"_XKB_RULES_NAMES").ok()?.reply().ok()?.atom;
        let reply = connection.get_property(false, root, atom, AtomEnum::STRING, 0, 1024).ok()?.reply().ok()?;
        Some(String::from_utf8_lossy(&reply.value).into_owned())
    };
    let text = names().unwrap_or_default();
    let parts: Vec<&str> = text.split('\0').collect();
    let list = |at: usize| parts.get(at).copied().unwrap_or_default().split(',').map(str::to_owned);
    let mut variants = list(3);
    let layouts = list(2).filter(|name| !name.is_empty()).map(|name| (name, variants.next().unwrap_or_default())).collect();
    let options = list(4).filter(|option| !option.is_empty()).collect();
    RuleNames { model: parts.get(1).copied().unwrap_or_default().to_owned(), layouts, options }
}
