//! Devices of the display, set as the rice says (XInput 2, by the properties of libinput's driver).

use std::collections::HashMap;

use jovrik_core::rice::{Acceleration, InputKind, InputRule, Rice};
use x11rb::connection::RequestConnection;
use x11rb::protocol::xinput::{
    self, ConnectionExt as _, DeviceId, DeviceType, EventMask, XIChangePropertyAux, XIEventMask, XIGetPropertyItems,
};
use x11rb::protocol::xproto::{Atom, ConnectionExt as _, PropMode, Window};

use super::connection::X11Connection;
use crate::Error;

/// What was changed, and how it was before.
#[derive(Debug, Default)]
pub struct Inputs {
    before: HashMap<(DeviceId, Atom), Kept>,
    /// What was set of which device.
    set: HashMap<(DeviceId, Atom), Wanted>,
    /// What devices do not have that the rice says something of.
    pub amiss: Vec<String>,
    there: bool,
}

#[derive(Debug, Clone, PartialEq)]
struct Kept {
    kind: Atom,
    items: Items,
}

#[derive(Debug, Clone, PartialEq)]
enum Items {
    Bytes(Vec<u8>),
    Words(Vec<u32>),
}

/// A value that is wanted.
#[derive(Debug, Clone, Copy, PartialEq)]
enum Wanted {
    Switch(bool),
    Speed(f64),
    /// The first of several switches, or the second.
    First(bool),
}

/// What rules say, by what it is called and by its property.
fn wanted(rule: &InputRule) -> Vec<(&'static str, &'static str, Wanted)> {
    let switch = |value: Option<bool>| value.map(Wanted::Switch);
    let flat = rule.acceleration.map(|how| Wanted::First(how == Acceleration::Adaptive));
    let all = [
        ("speed", "libinput Accel Speed", rule.speed.map(|speed| Wanted::Speed(speed.0))),
        ("acceleration", "libinput Accel Profile Enabled", flat),
        ("natural scrolling", "libinput Natural Scrolling Enabled", switch(rule.natural_scroll)),
        ("tapping", "libinput Tapping Enabled", switch(rule.tap)),
        ("buttons for a left hand", "libinput Left Handed Enabled", switch(rule.left_handed)),
        ("rest while somebody types", "libinput Disable While Typing Enabled", switch(rule.off_while_typing)),
    ];
    all.into_iter().filter_map(|(name, property, value)| Some((name, property, value?))).collect()
}

/// Whether a display can be asked at all, and told of devices that come.
fn begin(c: &X11Connection, root: Window) -> Result<bool, Error> {
    if c.extension_information(xinput::X11_EXTENSION_NAME)?.is_none() {
        return Ok(false);
    }
    if c.xinput_xi_query_version(2, 0)?.reply().is_err() {
        return Ok(false);
    }
    // Device 0 is all devices.
    let news = EventMask { deviceid: 0, mask: vec![XIEventMask::HIERARCHY] };
    c.xinput_xi_select_events(root, &[news])?.ignore_error();
    Ok(true)
}

impl Inputs {
    /// Sets all devices as a rice says; what no rule speaks of any more goes back to how it was.
    pub fn set(&mut self, c: &X11Connection, root: Window, rice: &Rice) -> Result<(), Error> {
        if rice.input.is_empty() && self.set.is_empty() {
            return Ok(());
        }
        self.there = self.there || begin(c, root)?;
        self.amiss.clear();
        if !self.there {
            self.amiss.push("this display tells of no devices".to_owned());
            return Ok(());
        }
        let mut set = HashMap::new();
        for device in c.xinput_xi_query_device(0_u16)?.reply()?.infos {
            let name = String::from_utf8_lossy(&device.name).into_owned();
            let id = device.deviceid;
            let keyboard = device.type_ == DeviceType::SLAVE_KEYBOARD;
            if !keyboard && device.type_ != DeviceType::SLAVE_POINTER {
                continue;
            }
            let has = |property: &str| -> Result<Option<(Atom, Kept)>, Error> {
                let atom = c.intern_atom(true, property.as_bytes())?.reply()?.atom;
                if atom == x11rb::NONE {
                    return Ok(None);
                }
                Ok(property_of(c, id, atom)?.map(|kept| (atom, kept)))
            };
            let kind = match () {
                () if keyboard => InputKind::Keyboard,
                () if has("libinput Tapping Enabled")?.is_some() => InputKind::Touchpad,
                () => InputKind::Pointer,
            };
            let means = |rule: &&InputRule| rule.r#match.matches(&name) && (rule.kind == InputKind::Any || rule.kind == kind);
            for rule in rice.input.values().filter(means) {
                for (what, property, value) in wanted(rule) {
                    match has(property)? {
                        Some((atom, kept)) => {
                            self.before.entry((id, atom)).or_insert(kept);
                            set.insert((id, atom), value);
                        }
                        // One that is meant by its name or kind is expected to have it.
                        None if rule.r#match.0 != "*" || rule.kind != InputKind::Any => {
                            self.amiss.push(format!("{name} has no {what}"));
                        }
                        None => {}
                    }
                }
            }
        }
        for ((id, atom), value) in &set {
            let Some(kept) = self.before.get(&(*id, *atom)).filter(|_| self.set.get(&(*id, *atom)) != Some(value)) else {
                continue;
            };
            change(c, *id, *atom, kept.kind, &items(*value, &kept.items))?;
        }
        for (id, atom) in self.set.keys().filter(|key| !set.contains_key(key)) {
            if let Some(kept) = self.before.remove(&(*id, *atom)) {
                change(c, *id, *atom, kept.kind, &kept.items)?;
            }
        }
        self.set = set;
        Ok(())
    }

    /// Devices came or went: what one of a number had is not what another of that number has.
    pub fn changed(&mut self) {
        self.before.clear();
        self.set.clear();
    }
}

/// A value in the shape of what is there.
fn items(value: Wanted, like: &Items) -> Items {
    match (value, like) {
        (Wanted::Switch(on), Items::Bytes(bytes)) => Items::Bytes(vec![on.into(); bytes.len().max(1)]),
        (Wanted::Switch(on), Items::Words(words)) => Items::Words(vec![on.into(); words.len().max(1)]),
        // Single precision, as the driver has it.
        (Wanted::Speed(speed), _) => Items::Words(vec![(speed as f32).to_bits()]),
        (Wanted::First(first), like) => {
            let count = match like {
                Items::Bytes(bytes) => bytes.len(),
                Items::Words(words) => words.len(),
            };
            Items::Bytes((0..count.max(2)).map(|nth| u8::from(nth == usize::from(!first))).collect())
        }
    }
}

fn property_of(c: &X11Connection, device: DeviceId, property: Atom) -> Result<Option<Kept>, Error> {
    let Ok(reply) = c.xinput_xi_get_property(device, false, property, 0_u32, 0, 16)?.reply() else { return Ok(None) };
    let items = match reply.items {
        XIGetPropertyItems::Data8(bytes) if reply.type_ != x11rb::NONE => Items::Bytes(bytes),
        XIGetPropertyItems::Data32(words) if reply.type_ != x11rb::NONE => Items::Words(words),
        _ => return Ok(None),
    };
    Ok(Some(Kept { kind: reply.type_, items }))
}

fn change(c: &X11Connection, device: DeviceId, property: Atom, kind: Atom, items: &Items) -> Result<(), Error> {
    let (count, items) = match items {
        Items::Bytes(bytes) => (bytes.len(), XIChangePropertyAux::Data8(bytes.clone())),
        Items::Words(words) => (words.len(), XIChangePropertyAux::Data32(words.clone())),
    };
    c.xinput_xi_change_property(device, PropMode::REPLACE, property, kind, count as u32, &items)?.ignore_error();
    Ok(())
}
