//! What programs tell over the bus.

use jovrik_core::desktop::{Event, Gone};

use super::Session;
use crate::Error;
use crate::notices::{News, Notices};

impl Session {
    /// Listens to what programs tell; why not is said in `ask health`.
    pub(super) fn hear_programs(&mut self) {
        match Notices::take() {
            Ok(notices) => self.notices = Some(notices),
            Err(why) => self.notices_amiss = Some(why),
        }
    }

    /// What programs have told.
    pub(super) fn hear_told(&mut self) -> Result<(), Error> {
        let Some(notices) = &mut self.notices else { return Ok(()) };
        for news in notices.step() {
            self.step(match news {
                News::Told(telling) => Event::Told(Box::new(telling)),
                News::Untold(id) => Event::Untold(id),
            })?;
        }
        Ok(())
    }

    pub(super) fn untold(&self, id: u32, why: Gone) {
        if let Some(notices) = &self.notices {
            notices.gone(id, why);
        }
    }

    pub(super) fn chosen(&self, id: u32, key: &str) {
        if let Some(notices) = &self.notices {
            notices.chosen(id, key);
        }
    }
}
