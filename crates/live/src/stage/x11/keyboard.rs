//! The keyboard of the server: what its keys make, setting it up, switching its layout (the XKB protocol).

use std::io::IoSlice;
use std::sync::Arc;

use jovrik_core::keys::{KeyboardLayout, KeyboardLayouts, RuleNames};
use jovrik_core::rice::{KeyboardSettings as Wanted, Rice};
use jovrik_schema::{Branch, TimeSpan, Tree};
use kbvm::xkb::x11::KbvmX11Ext;
use kbvm::xkb::{Context, diagnostic::Diagnostic, diagnostic::DiagnosticKind, rmlvo};
use x11rb::connection::RequestConnection;
use x11rb::cookie::Cookie;
use x11rb::protocol::xkb::{self, ConnectionExt as _};
use x11rb::protocol::xproto::{AtomEnum, ConnectionExt as _, ModMask, PropMode, Window};
use x11rb::wrapper::ConnectionExt as _;

use super::connection::X11Connection;
use super::facts::rules_of;
use crate::Error;

/// The keyboard of the server, layout by layout.
#[derive(Debug)]
pub struct ServerKeyboard {
    device: u16,
    layouts: KeyboardLayouts,
    group: usize,
}

impl ServerKeyboard {
    /// Reads the keyboard of the server, and asks to be told when it changes.
    pub fn read(connection: &X11Connection, root: Window, latin: bool) -> Result<ServerKeyboard, Error> {
        let broken = |why: kbvm::xkb::x11::X11Error| Error::Refused(format!("its keyboard cannot be read: {why}"));
        connection.setup_xkb_extension().map_err(broken)?;
        let device = connection.get_xkb_core_device_id().map_err(broken)?;
        let state = xkb::StatePart::GROUP_STATE;
        let changes = xkb::NKNDetail::KEYCODES;
        let details = xkb::SelectEventsAux::new()
            .new_keyboard_notify(xkb::SelectEventsAuxNewKeyboardNotify {
                affect_new_keyboard: changes,
                new_keyboard_details: changes,
            })
            .state_notify(xkb::SelectEventsAuxStateNotify { affect_state: state, state_details: state });
        let map = xkb::MapPart::KEY_SYMS | xkb::MapPart::MODIFIER_MAP;
        let (none, some) = (xkb::EventType::default(), xkb::EventType::MAP_NOTIFY);
        connection.xkb_select_events(device, none, some, map, map, &details)?.ignore_error();
        // Held keys then repeat without coming up in between.
        let repeats = xkb::PerClientFlag::DETECTABLE_AUTO_REPEAT;
        let off = xkb::BoolCtrl::default();
        connection.xkb_per_client_flags(device, repeats, repeats, off, off, off)?.reply()?;
        let keymap = connection.get_xkb_keymap(device).map_err(broken)?;
        let group = usize::from(u8::from(connection.xkb_get_state(device)?.reply()?.group));
        let rules = rules_of(connection, root);
        let groups = keymap.keys().map(|key| key.groups().count()).max().unwrap_or(1).max(1);
        let one = |group: usize| {
            let (name, variant) =
                rules.layouts.get(group).cloned().unwrap_or_else(|| (format!("layout {}", group + 1), String::new()));
            Arc::new(KeyboardLayout::of_keymap(&keymap, group, &RuleNames::name(&name, &variant), &rules.model))
        };
        let layouts = KeyboardLayouts::new((0..groups).map(one).collect(), latin);
        Ok(ServerKeyboard { device, layouts, group })
    }

    /// The layout that is active.
    pub fn now(&self) -> &KeyboardLayout {
        self.layouts.nth(self.group)
    }

    /// All its layouts.
    pub fn layouts(&self) -> &KeyboardLayouts {
        &self.layouts
    }

    /// Which of them is active.
    pub fn active(&self) -> usize {
        self.group
    }

    /// Notes that another layout is active; whether that is news.
    pub fn switched(&mut self, group: usize) -> bool {
        std::mem::replace(&mut self.group, group) != group
    }

    /// Makes another layout active.
    pub fn switch(&self, connection: &X11Connection, at: usize) -> Result<(), Error> {
        let none = ModMask::default();
        connection
            .xkb_latch_lock_state(self.device, none, none, true, xkb::Group::from(at as u8), none, false, 0)?
            .ignore_error();
        Ok(())
    }
}

/// What a rice says of the keyboard; what it does not say stays as it is on the server.
pub fn set_up(connection: &X11Connection, root: Window, rice: &Rice, tree: &Branch, old: Option<&Wanted>) -> Result<(), Error> {
    let says = |names: &[&str]| {
        let written =
            |name: &&str| tree.get(&["keyboard", *name]).is_some_and(|tree| matches!(tree, Tree::Leaf(_) | Tree::Branch(_)));
        names.iter().any(written)
    };
    let new = &rice.keyboard;
    let same = |old: &Wanted| {
        (&old.layouts, &old.variant, &old.options, &old.model) == (&new.layouts, &new.variant, &new.options, &new.model)
    };
    let stays = match old {
        Some(old) => same(old),
        None => !says(&["layouts", "variant", "options", "model"]),
    };
    let device = u16::from(xkb::ID::USE_CORE_KBD);
    connection.setup_xkb_extension().map_err(|why| Error::Refused(why.to_string()))?;
    let wanted = rice.keyboard_layouts();
    if !stays && rules_of(connection, root) != wanted {
        load(connection, root, device, &wanted)?;
    }
    let repeat_stays = old.map_or(!says(&["repeat"]), |old| old.repeat == new.repeat);
    if !repeat_stays {
        repeat(connection, device, new)?;
    }
    let access = |keyboard: &Wanted| (keyboard.sticky, keyboard.slow, keyboard.bounce);
    let access_stays = old.map_or(!says(&["sticky", "slow", "bounce"]), |old| access(old) == access(new));
    if !access_stays {
        ease(connection, device, new)?;
    }
    Ok(())
}

/// Has the server compile and use a keymap (XKB protocol, `XkbGetKbdByName`), and says so where programs look for it.
fn load(connection: &X11Connection, root: Window, device: u16, wanted: &RuleNames) -> Result<(), Error> {
    let groups: Vec<rmlvo::Group<'_>> = wanted.layouts.iter().map(|(layout, variant)| rmlvo::Group { layout, variant }).collect();
    let options: Vec<&str> = wanted.options.iter().map(String::as_str).collect();
    let quiet: (Vec<Diagnostic>, fn(DiagnosticKind, bool) -> bool) = (Vec::new(), |_, _| false);
    let model = Some(wanted.model.as_str()).filter(|model| !model.is_empty());
    let names = Context::default().expand_names(quiet, Some("evdev"), model, Some(&groups), Some(&options));
    let part = |elements: &[rmlvo::Element]| {
        let mut text = String::new();
        for element in elements {
            // The request joins parts by `+` or `|` (XKB protocol, 21.3).
            let joint = if element.merge_mode == rmlvo::MergeMode::Augment { '|' } else { '+' };
            if !text.is_empty() {
                text.push(joint);
            }
            text.push_str(&element.include);
        }
        text
    };
    let parts = [&names.keycodes, &names.types, &names.compat, &names.symbols, &names.geometry].map(|elements| part(elements));
    let opcode = connection.extension_information(xkb::X11_EXTENSION_NAME)?.ok_or(Error::Gone)?.major_opcode;
    let all = xkb::GBNDetail::TYPES
        | xkb::GBNDetail::COMPAT_MAP
        | xkb::GBNDetail::CLIENT_SYMBOLS
        | xkb::GBNDetail::SERVER_SYMBOLS
        | xkb::GBNDetail::INDICATOR_MAPS
        | xkb::GBNDetail::KEY_NAMES
        | xkb::GBNDetail::OTHER_NAMES;
    let need =
        (xkb::GBNDetail::TYPES | xkb::GBNDetail::CLIENT_SYMBOLS | xkb::GBNDetail::SERVER_SYMBOLS | xkb::GBNDetail::KEY_NAMES)
            .bits();
    let mut body = vec![opcode, xkb::GET_KBD_BY_NAME_REQUEST, 0, 0];
    body.extend(device.to_ne_bytes());
    body.extend(need.to_ne_bytes());
    body.extend(all.bits().to_ne_bytes());
    body.extend([1, 0]);
    // A keymap of a name is not asked for; the parts are.
    body.push(0);
    for text in &parts {
        let text = &text.as_bytes()[..text.len().min(255)];
        body.push(text.len() as u8);
        body.extend_from_slice(text);
    }
    while body.len() % 4 > 0 {
        body.push(0);
    }
    let length = (body.len() / 4) as u16;
    body[2..4].copy_from_slice(&length.to_ne_bytes());
    let cookie: Cookie<'_, _, Loaded> = connection.send_request_with_reply(&[IoSlice::new(&body)], Vec::new())?;
    let listed: Vec<String> = wanted.layouts.iter().map(|(layout, variant)| RuleNames::name(layout, variant)).collect();
    if !cookie.reply()?.0 {
        return Err(Error::Refused(format!("the keyboard {}", listed.join(", "))));
    }
    let joined = |pick: fn(&(String, String)) -> &str| wanted.layouts.iter().map(pick).collect::<Vec<_>>().join(",");
    let rules = [
        "evdev".to_owned(),
        wanted.model.clone(),
        joined(|(layout, _)| layout),
        joined(|(_, variant)| variant),
        wanted.options.join(","),
    ];
    let rules: String = rules.iter().map(|text| format!("{text}\0")).collect();
    let atom = connection.intern_atom(false, b"_XKB_RULES_NAMES")?.reply()?.atom;
    connection.change_property8(PropMode::REPLACE, root, atom, AtomEnum::STRING, rules.as_bytes())?;
    Ok(())
}

/// Whether a keymap was loaded: all of the reply that is of interest.
struct Loaded(bool);

impl x11rb::x11_utils::TryParse for Loaded {
    fn try_parse(bytes: &[u8]) -> Result<(Self, &[u8]), x11rb::errors::ParseError> {
        // 1 reply, 1 device, 2 sequence number, 4 length, 1 least and 1 greatest code, 1 loaded.
        let loaded = bytes.get(10).ok_or(x11rb::errors::ParseError::InsufficientData)?;
        Ok((Loaded(*loaded != 0), &[]))
    }
}

/// How held keys repeat.
fn repeat(connection: &X11Connection, device: u16, wanted: &Wanted) -> Result<(), Error> {
    let millis = |span: std::time::Duration| span.as_millis().clamp(1, 60_000) as u16;
    let (after, every) = (millis(wanted.repeat.after.0), millis(wanted.repeat.every.0));
    let (mask, vmod, off, options) =
        (ModMask::default(), xkb::VMod::default(), xkb::BoolCtrl::default(), xkb::AXOption::default());
    let on = xkb::BoolCtrl::REPEAT_KEYS;
    let change = xkb::Control::from(u32::from(on));
    connection
        .xkb_set_controls(
            device, mask, mask, mask, mask, vmod, vmod, vmod, vmod, 0, 0, options, on, on, change, after, every, 0, 0, 0, 0, 0,
            0, 0, 0, off, off, options, options, &[0; 32],
        )?
        .ignore_error();
    Ok(())
}

/// Keys for those who cannot hold two, hit others on the way, or hit one twice (XKB protocol, section 4).
fn ease(connection: &X11Connection, device: u16, wanted: &Wanted) -> Result<(), Error> {
    let millis = |span: Option<TimeSpan>| span.map_or(0, |span| span.0.as_millis().clamp(1, 60_000) as u16);
    let (mask, vmod, options) = (ModMask::default(), xkb::VMod::default(), xkb::AXOption::default());
    let (sticky, slow, bounce) = (xkb::BoolCtrl::STICKY_KEYS, xkb::BoolCtrl::SLOW_KEYS, xkb::BoolCtrl::BOUNCE_KEYS);
    let all = sticky | slow | bounce;
    let mut on = xkb::BoolCtrl::default();
    for (wanted, control) in [(wanted.sticky, sticky), (wanted.slow.is_some(), slow), (wanted.bounce.is_some(), bounce)] {
        if wanted {
            on |= control;
        }
    }
    // The times of those that are on.
    let change = xkb::Control::from(u32::from(on & (slow | bounce)));
    let off = xkb::BoolCtrl::default();
    connection
        .xkb_set_controls(
            device,
            mask,
            mask,
            mask,
            mask,
            vmod,
            vmod,
            vmod,
            vmod,
            0,
            0,
            options,
            all,
            on,
            change,
            0,
            0,
            millis(wanted.slow),
            millis(wanted.bounce),
            0,
            0,
            0,
            0,
            0,
            0,
            off,
            off,
            options,
            options,
            &[0; 32],
        )?
        .ignore_error();
    Ok(())
}
