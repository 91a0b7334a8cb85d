//! Who does not answer (EWMH, `_NET_WM_PING`): asked when it gets the focus or is to close.

use std::collections::{HashMap, HashSet};
use std::time::{Duration, Instant};

use x11rb::protocol::xproto::Window;

use super::server::Server;
use crate::Error;

/// How long a program is given to answer.
const PING_TIMEOUT: Duration = Duration::from_secs(5);

/// Who was asked, and who hangs.
#[derive(Debug, Default)]
pub struct Pings {
    asked: HashMap<Window, Instant>,
    hangs: HashSet<Window>,
}

impl Pings {
    /// Asks a window whether it is still there, unless that was asked already.
    pub fn ask(&mut self, server: &Server, window: Window, time: u32, now: Instant) -> Result<(), Error> {
        if !self.asked.contains_key(&window) && !self.hangs.contains(&window) {
            self.asked.insert(window, now);
            server.message(window, server.names.WM_PROTOCOLS, [server.names._NET_WM_PING, time, window, 0, 0])?;
        }
        Ok(())
    }

    /// It answered; whether it had been hanging.
    pub fn answered(&mut self, window: Window) -> bool {
        self.asked.remove(&window);
        self.hangs.remove(&window)
    }

    /// When the next one has had time enough.
    pub fn wakes(&self) -> Option<Instant> {
        self.asked.values().min().map(|asked| *asked + PING_TIMEOUT)
    }

    /// Those that have not answered in time.
    pub fn late(&mut self, now: Instant) -> Vec<Window> {
        let late: Vec<Window> = self.asked.iter().filter(|(_, asked)| **asked + PING_TIMEOUT <= now).map(|(id, _)| *id).collect();
        for window in &late {
            self.asked.remove(window);
            self.hangs.insert(*window);
        }
        late
    }

    /// A window is gone.
    pub fn gone(&mut self, window: Window) {
        self.answered(window);
    }
}
