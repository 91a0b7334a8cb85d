//! The server's times: of what the person did last, and of what is asked in their name (ICCCM, section 2.1).

use jovrik_core::desk::WindowId;
use x11rb::protocol::sync::{ConnectionExt as _, Counter};

use super::X11;
use super::server::Server;
use crate::Error;

/// Whether a time lies after another one; times wrap round, and 0 is none.
fn later(time: u32, than: u32) -> bool {
    time != 0 && (than == 0 || (time.wrapping_sub(than) as i32) > 0)
}

/// The server's times.
#[derive(Debug, Default)]
pub(super) struct Times {
    /// Of the event that is being handled, or the last one that had one.
    event: u32,
    /// Whether it came since what is seen was shown last.
    fresh: bool,
    /// When the focus was given last.
    focus: u32,
    /// The counter that is the server's clock (the SYNC extension, `SERVERTIME`).
    clock: Option<Counter>,
}

impl Times {
    /// With the server's clock, where it has one.
    pub fn new(server: &Server) -> Result<Times, Error> {
        let clock = match server.sync {
            true => {
                let all = server.connection.sync_list_system_counters()?.reply()?;
                all.counters.iter().find(|counter| counter.name == b"SERVERTIME").map(|counter| counter.counter)
            }
            false => None,
        };
        Ok(Times { clock, ..Times::default() })
    }

    /// An event of a time is handled.
    pub fn happened(&mut self, time: u32) {
        if time != 0 {
            (self.event, self.fresh) = (time, true);
        }
    }

    /// What came of events is shown: what is asked next came of something else.
    pub fn shown(&mut self) {
        self.fresh = false;
    }

    /// The server's time now; that of the last event where it does not tell.
    fn now(&self, server: &Server) -> Result<u32, Error> {
        let Some(clock) = self.clock else { return Ok(self.event) };
        let now = server.connection.sync_query_counter(clock)?.reply().map(|reply| reply.counter_value.lo);
        Ok(now.unwrap_or(self.event))
    }

    /// The time of what is asked now: of the event that it comes of, else the server's.
    pub fn of_this(&mut self, server: &Server) -> Result<u32, Error> {
        if !self.fresh {
            let now = self.now(server)?;
            self.happened(now);
        }
        Ok(self.event)
    }

    /// The same for the focus, which is never given with a time before the last one: the server would refuse that.
    pub fn of_focus(&mut self, server: &Server) -> Result<u32, Error> {
        let time = self.of_this(server)?;
        if later(time, self.focus) {
            self.focus = time;
        }
        Ok(self.focus)
    }
}

impl X11 {
    /// The person did something at a time.
    pub(super) fn did(&mut self, time: u32) {
        self.times.happened(time);
        self.active = time;
    }

    /// What a program says of the time of what the person did: nobody's is believed that is yet to come.
    pub(super) fn believed(&self, time: u32) -> Result<Option<u32>, Error> {
        Ok((time != 0 && !later(time, self.times.now(&self.server)?)).then_some(time))
    }

    /// The focused window says when the person did something in it.
    pub(super) fn weigh(&mut self, used: Option<u32>) -> Result<(), Error> {
        if let Some(used) = used.filter(|used| later(*used, self.active))
            && let Some(used) = self.believed(used)?
        {
            self.active = used;
        }
        Ok(())
    }

    /// A window gets the focus, in its own manner.
    pub(super) fn focus(&mut self, window: Option<WindowId>) -> Result<(), Error> {
        let manners = window.and_then(|id| self.manners.get(&id.0)).copied().unwrap_or_default();
        let time = self.times.of_focus(&self.server)?;
        self.server.focus(window.map(|id| id.0), manners, time)?;
        if let Some(window) = window.filter(|_| manners.pings) {
            self.pings.ask(&self.server, window.0, time, self.now)?;
        }
        self.weigh(manners.used)
    }
}

#[cfg(test)]
mod tests {
    use super::later;

    #[test]
    fn times_wrap_round() {
        for (time, than, is) in [(5, 4, true), (4, 5, false), (4, 4, false), (3, u32::MAX - 2, true), (0, 7, false), (7, 0, true)]
        {
            assert_eq!(later(time, than), is, "{time} after {than}");
        }
    }
}
