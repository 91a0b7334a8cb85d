//! The outputs of the server: what they can show, and how they are lit (RandR 1.3).

use std::collections::HashMap;

use jovrik_core::desk::{DisplayConfig, Output, OutputConfig, OutputMode, edid};
use jovrik_core::rice::OutputRotation;
use x11rb::connection::Connection;
use x11rb::protocol::randr::{self, ConnectionExt as _, Crtc, ModeFlag, ModeInfo, Rotation};
use x11rb::protocol::xproto::{AtomEnum, ConnectionExt as _};

use super::connection::X11Connection;
use super::server::Server;
use crate::Error;

/// An output as the server numbers it.
#[derive(Debug)]
struct Known {
    output: Output,
    number: randr::Output,
    /// What lights it, if it is lit.
    crtc: Option<Crtc>,
    /// What could.
    crtcs: Vec<Crtc>,
}

fn rate(mode: &ModeInfo) -> f64 {
    let lines = f64::from(mode.vtotal) * if mode.mode_flags.contains(ModeFlag::DOUBLE_SCAN) { 2.0 } else { 1.0 }
        / if mode.mode_flags.contains(ModeFlag::INTERLACE) { 2.0 } else { 1.0 };
    let all = f64::from(mode.htotal) * lines;
    if all > 0.0 { f64::from(mode.dot_clock) / all } else { 0.0 }
}

fn turned(rotation: Rotation) -> OutputRotation {
    match rotation {
        r if r.contains(Rotation::ROTATE90) => OutputRotation::Left,
        r if r.contains(Rotation::ROTATE180) => OutputRotation::Over,
        r if r.contains(Rotation::ROTATE270) => OutputRotation::Right,
        _ => OutputRotation::Upright,
    }
}

fn rotation(rotate: OutputRotation) -> Rotation {
    match rotate {
        OutputRotation::Upright => Rotation::ROTATE0,
        // RandR turns to the left.
        OutputRotation::Left => Rotation::ROTATE90,
        OutputRotation::Over => Rotation::ROTATE180,
        OutputRotation::Right => Rotation::ROTATE270,
    }
}

/// Maker, model and number of what is connected to an output, as far as it says (RandR 1.2, the property EDID).
pub(super) fn maker(c: &X11Connection, output: randr::Output) -> Result<String, Error> {
    let name = c.intern_atom(true, b"EDID")?.reply()?.atom;
    if name == x11rb::NONE {
        return Ok(String::new());
    }
    let asked = c.randr_get_output_property(output, name, AtomEnum::ANY, 0, 64, false, false)?;
    Ok(asked.reply().ok().and_then(|reply| edid(&reply.data)).unwrap_or_default())
}

/// What is connected, from the left: first what is lit.
fn known(server: &Server) -> Result<Vec<Known>, Error> {
    let c = &server.connection;
    let resources = c.randr_get_screen_resources_current(server.root)?.reply()?;
    let primary = c.randr_get_output_primary(server.root)?.reply()?.output;
    let modes: HashMap<u32, OutputMode> = resources
        .modes
        .iter()
        .map(|mode| (mode.id, OutputMode { id: mode.id, size: (mode.width.into(), mode.height.into()), rate: rate(mode) }))
        .collect();
    let mut all = Vec::new();
    for number in resources.outputs {
        let Ok(info) = c.randr_get_output_info(number, resources.config_timestamp)?.reply() else { continue };
        let crtc = (info.crtc != x11rb::NONE).then_some(info.crtc);
        if info.connection != randr::Connection::CONNECTED && crtc.is_none() {
            continue;
        }
        let mut lit = None;
        if let Some(crtc) = crtc
            && let Ok(shown) = c.randr_get_crtc_info(crtc, resources.config_timestamp)?.reply()
            && let Some(mode) = modes.get(&shown.mode)
        {
            lit = Some(OutputConfig { mode: *mode, at: (shown.x.into(), shown.y.into()), rotate: turned(shown.rotation) });
        }
        let output = Output {
            name: String::from_utf8_lossy(&info.name).into_owned(),
            maker: maker(c, number)?,
            // The server lists the preferred ones first.
            modes: info.modes.iter().filter_map(|id| modes.get(id).copied()).collect(),
            lit,
            primary: number == primary,
        };
        all.push(Known { output, number, crtc: crtc.filter(|_| lit.is_some()), crtcs: info.crtcs });
    }
    all.sort_by_key(|known| known.output.lit.map_or((1, 0, 0), |lit| (0, lit.at.0, lit.at.1)));
    Ok(all)
}

/// What is connected, and how it is lit.
pub fn outputs(server: &Server) -> Result<Vec<Output>, Error> {
    Ok(known(server)?.into_iter().map(|known| known.output).collect())
}

/// Lights the outputs as a plan says: what moves or does not fit is dark meanwhile, and nobody draws in between.
pub fn light(server: &Server, plan: &DisplayConfig) -> Result<(), Error> {
    let c = &server.connection;
    c.grab_server()?;
    let done = light_all(server, plan);
    c.ungrab_server()?;
    c.flush()?;
    done
}

fn light_all(server: &Server, plan: &DisplayConfig) -> Result<(), Error> {
    let (c, now) = (&server.connection, x11rb::CURRENT_TIME);
    let known = known(server)?;
    let stamp = c.randr_get_screen_resources_current(server.root)?.reply()?.config_timestamp;
    let wanted = |known: &Known| plan.outputs.iter().find(|(name, _)| *name == known.output.name).and_then(|(_, lit)| *lit);
    let (w, h) = plan.size();
    for one in &known {
        let stays = wanted(one) == one.output.lit;
        if let Some(crtc) = one.crtc.filter(|_| !stays) {
            c.randr_set_crtc_config(crtc, now, stamp, 0, 0, x11rb::NONE, Rotation::ROTATE0, &[])?.reply()?;
        }
    }
    // As if there were 96 dots an inch, which is what programs expect where nobody knows.
    let millimetres = |pixels: i32| (f64::from(pixels) * 25.4 / 96.0).round() as u32;
    let fits = |pixels: i32| pixels.clamp(1, 32_767) as u16;
    c.randr_set_screen_size(server.root, fits(w), fits(h), millimetres(w), millimetres(h))?.check()?;
    let mut taken: Vec<Crtc> = known.iter().filter(|one| wanted(one) == one.output.lit).filter_map(|one| one.crtc).collect();
    for one in &known {
        let Some(lit) = wanted(one).filter(|lit| Some(*lit) != one.output.lit) else { continue };
        let free = |crtc: &&Crtc| !taken.contains(crtc);
        let Some(crtc) = one.crtc.iter().chain(&one.crtcs).find(free).copied() else { continue };
        taken.push(crtc);
        let (x, y) = (lit.at.0 as i16, lit.at.1 as i16);
        c.randr_set_crtc_config(crtc, now, stamp, x, y, lit.mode.id, rotation(lit.rotate), &[one.number])?.reply()?;
    }
    let primary = known.iter().find(|one| Some(&one.output.name) == plan.primary.as_ref());
    c.randr_set_output_primary(server.root, primary.map_or(x11rb::NONE, |one| one.number))?;
    Ok(())
}
