//! What programs tell over the bus.

use jovrik_core::desktop::{Alone, Event, Gone};

use jovrik_core::rice::IconRef;

use super::Session;
use crate::Error;
use crate::notices::{News, Notices};

/// So much is taken in at once.
const AT_ONCE: usize = 64;
/// Pictures that programs sent along are kept of so many.
const SENT: u32 = 128;

impl Session {
    /// Listens to what programs tell; why not is said in `ask health`.
    ///
    /// # Errors
    ///
    /// Where that is all that is wanted and cannot be.
    pub(super) fn hear_programs(&mut self) -> Result<(), Error> {
        let only = &self.options.only;
        if !only.is_empty() && !only.contains(&Alone::Notices) {
            self.notices_amiss = Some("left to others".to_owned());
            return Ok(());
        }
        match Notices::take(self.options.replace) {
            Ok(notices) => self.notices = Some(notices),
            Err(why) if !only.is_empty() => return Err(Error::System("notices cannot be shown", why.to_string())),
            Err(why) => self.notices_amiss = Some(why.to_string()),
        }
        Ok(())
    }

    /// What programs have told: so much of it at once that the rest of the desk is not kept waiting. Whether there may be more.
    pub(super) fn hear_told(&mut self) -> Result<bool, Error> {
        let Some(notices) = &mut self.notices else { return Ok(false) };
        let news = notices.step(AT_ONCE);
        let more = news.len() == AT_ONCE;
        let mut events = Vec::with_capacity(news.len());
        for news in news {
            events.push(match news {
                News::Told(mut telling, sent) => {
                    if let Some((size, pixels)) = sent {
                        // Of those before only so many are remembered.
                        let name = format!("\u{0}notice/{}", telling.id % SENT);
                        self.stage.brush().pictures.insert(&name, size, pixels);
                        telling.picture = Some(IconRef::Picture(name));
                    }
                    Event::Told(telling)
                }
                News::Untold(id) => Event::Untold(id),
            });
        }
        if !events.is_empty() {
            self.steps(events)?;
        }
        Ok(more)
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
