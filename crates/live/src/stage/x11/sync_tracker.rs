//! Resizes in the pace of a program: the next one waits until it has drawn the last (EWMH, `_NET_WM_SYNC_REQUEST`).

use std::collections::HashMap;
use std::time::{Duration, Instant};

use jovrik_core::desk::PlacedWindow;
use x11rb::connection::Connection;
use x11rb::protocol::sync::{self, Alarm, ChangeAlarmAux, ConnectionExt as _, Counter, CreateAlarmAux, Int64};
use x11rb::protocol::xproto::Window;

use super::server::Server;
use crate::Error;

/// How long a program is waited for.
const SYNC_TIMEOUT: Duration = Duration::from_millis(120);

#[derive(Debug)]
struct Paced {
    alarm: Alarm,
    value: i64,
    /// Since when it draws.
    draws: Option<Instant>,
    /// Where it goes next.
    later: Option<PlacedWindow>,
}

/// The windows that say when they have drawn.
#[derive(Debug, Default)]
pub struct SyncTracker(HashMap<Window, Paced>);

fn int64(value: i64) -> Int64 {
    Int64 { hi: (value >> 32) as i32, lo: value as u32 }
}

impl SyncTracker {
    /// Whether a window still draws: then it goes there afterwards.
    pub fn waits(&mut self, window: Window, to: PlacedWindow) -> bool {
        let waits = self.0.get_mut(&window).filter(|paced| paced.draws.is_some());
        waits.map(|paced| paced.later = Some(to)).is_some()
    }

    /// A window is about to get another size: it is asked to say when it has drawn that.
    pub fn resizes(&mut self, server: &Server, window: Window, counter: Counter, time: u32, now: Instant) -> Result<(), Error> {
        let c = &server.connection;
        let paced = if let Some(paced) = self.0.get_mut(&window) {
            paced
        } else {
            let Ok(reply) = c.sync_query_counter(counter)?.reply() else { return Ok(()) };
            let value = i64::from(reply.counter_value.hi) << 32 | i64::from(reply.counter_value.lo);
            let alarm = c.generate_id()?;
            let how = CreateAlarmAux::new().counter(counter).value_type(sync::VALUETYPE::ABSOLUTE).value(int64(i64::MAX));
            let how = how.test_type(sync::TESTTYPE::POSITIVE_COMPARISON).delta(int64(0)).events(1);
            c.sync_create_alarm(alarm, &how)?.ignore_error();
            self.0.entry(window).or_insert(Paced { alarm, value, draws: None, later: None })
        };
        paced.value = paced.value.checked_add(1).unwrap_or(1);
        paced.draws = Some(now);
        let value = int64(paced.value);
        c.sync_change_alarm(paced.alarm, &ChangeAlarmAux::new().value(value))?.ignore_error();
        let data = [server.names._NET_WM_SYNC_REQUEST, time, value.lo, value.hi as u32, 0];
        server.message(window, server.names.WM_PROTOCOLS, data)
    }

    /// An alarm tells that a window has drawn: where it goes now, if that was to wait.
    pub fn drawn(&mut self, alarm: Alarm) -> Option<(Window, PlacedWindow)> {
        let (window, paced) = self.0.iter_mut().find(|(_, paced)| paced.alarm == alarm)?;
        paced.draws = None;
        paced.later.take().map(|later| (*window, later))
    }

    /// Those that took too long: where they go all the same.
    pub fn late(&mut self, now: Instant) -> Vec<(Window, PlacedWindow)> {
        let late = |paced: &Paced| paced.draws.is_some_and(|since| since + SYNC_TIMEOUT <= now);
        let mut all = Vec::new();
        for (window, paced) in self.0.iter_mut().filter(|(_, paced)| late(paced)) {
            paced.draws = None;
            all.extend(paced.later.take().map(|later| (*window, later)));
        }
        all
    }

    /// When the next one has had time enough; one that nothing waits for may take its time.
    pub fn wakes(&self) -> Option<Instant> {
        let waited = self.0.values().filter(|paced| paced.later.is_some());
        waited.filter_map(|paced| paced.draws).min().map(|since| since + SYNC_TIMEOUT)
    }

    /// A window is gone, or no longer ours.
    pub fn gone(&mut self, server: &Server, window: Window) -> Result<(), Error> {
        if let Some(paced) = self.0.remove(&window) {
            server.connection.sync_destroy_alarm(paced.alarm)?.ignore_error();
        }
        Ok(())
    }
}
