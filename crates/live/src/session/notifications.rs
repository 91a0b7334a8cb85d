//! What programs tell over the bus.

use std::time::Duration;

use jovrik_core::desktop::{CloseReason, DesktopEvent, StandaloneComponent};
use jovrik_values::IconRef;

use super::Session;
use crate::Error;
use crate::bus::Asked;
use crate::notification_server::{NotificationServer, NotificationSignal};

/// How long the desktop waits for the bus when it begins, and where notices are all that it is to show.
const HEAR_TIMEOUT: Duration = Duration::from_millis(50);
const ANSWER_TIMEOUT: Duration = Duration::from_secs(5);
const NO_ANSWER: &str = "the session bus does not answer";
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
        if !only.is_empty() && !only.contains(&StandaloneComponent::Notices) {
            self.notices_amiss = Some("left to others".to_owned());
            return Ok(());
        }
        let mut coming = match NotificationServer::begin(self.options.replace) {
            Ok(coming) => coming,
            Err(why) if !only.is_empty() => return Err(Error::System("notices cannot be shown", why.to_string())),
            Err(why) => {
                self.notices_amiss = Some(why.to_string());
                return Ok(());
            }
        };
        match coming.take_within(if only.is_empty() { HEAR_TIMEOUT } else { ANSWER_TIMEOUT }) {
            Some(Ok(notices)) => self.notices = Some(notices),
            Some(Err(why)) if !only.is_empty() => return Err(Error::System("notices cannot be shown", why.to_string())),
            Some(Err(why)) => self.notices_amiss = Some(why.to_string()),
            None if !only.is_empty() => {
                return Err(Error::System("notices cannot be shown", NO_ANSWER.to_owned()));
            }
            None => {
                self.notices_amiss = Some(NO_ANSWER.to_owned());
                self.notices_coming = Some(coming);
            }
        }
        Ok(())
    }

    /// The bus has answered late.
    fn notices_come(&mut self) {
        let Some(come) = self.notices_coming.as_mut().and_then(Asked::take) else { return };
        self.notices_coming = None;
        match come {
            Ok(notices) => (self.notices, self.notices_amiss) = (Some(notices), None),
            Err(why) => self.notices_amiss = Some(why.to_string()),
        }
    }

    /// What programs have told: so much of it at once that the rest of the desk is not kept waiting. Whether there may be more.
    pub(super) fn hear_told(&mut self) -> Result<bool, Error> {
        self.notices_come();
        let Some(notices) = &mut self.notices else { return Ok(false) };
        let news = notices.step(AT_ONCE);
        let more = news.len() == AT_ONCE;
        let mut events = Vec::with_capacity(news.len());
        for news in news {
            events.push(match news {
                NotificationSignal::Told(mut telling, sent) => {
                    if let Some((size, pixels)) = sent {
                        // Of those before only so many are remembered.
                        let name = format!("\u{0}notice/{}", telling.id % SENT);
                        self.stage.brush().pictures.insert(&name, size, pixels);
                        telling.picture = Some(IconRef::Picture(name));
                    }
                    DesktopEvent::NotificationReceived(telling)
                }
                NotificationSignal::Untold(id) => DesktopEvent::NotificationWithdrawn(id),
            });
        }
        if !events.is_empty() {
            self.steps(events)?;
        }
        Ok(more)
    }

    pub(super) fn untold(&self, id: u32, why: CloseReason) {
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
