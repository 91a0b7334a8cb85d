//! The clock of the computer, as something that tells when it is set: by a person, by the network, after a sleep.

use std::os::fd::{AsFd, BorrowedFd, OwnedFd};

use rustix::time::{Itimerspec, TimerfdClockId, TimerfdFlags, TimerfdTimerFlags, Timespec, timerfd_create, timerfd_settime};

/// A timer that is never due, and is cancelled when the clock is set (timerfd_create(2), `TFD_TIMER_CANCEL_ON_SET`).
pub struct Clock(OwnedFd);

impl Clock {
    /// Begins to listen.
    ///
    /// # Errors
    ///
    /// When the system gives no timer.
    pub fn new() -> std::io::Result<Clock> {
        let timer = timerfd_create(TimerfdClockId::Realtime, TimerfdFlags::CLOEXEC | TimerfdFlags::NONBLOCK)?;
        let clock = Clock(timer);
        clock.arm()?;
        Ok(clock)
    }

    fn arm(&self) -> std::io::Result<()> {
        let never = Timespec { tv_sec: i64::from(u32::MAX) * 16, tv_nsec: 0 };
        let once = Itimerspec { it_interval: Timespec::default(), it_value: never };
        timerfd_settime(&self.0, TimerfdTimerFlags::ABSTIME | TimerfdTimerFlags::CANCEL_ON_SET, &once)?;
        Ok(())
    }

    /// What to wait on.
    pub fn fd(&self) -> BorrowedFd<'_> {
        self.0.as_fd()
    }

    /// Whether it was set since that was asked last.
    pub fn was_set(&self) -> bool {
        let mut times = [0; 8];
        match rustix::io::read(&self.0, &mut times) {
            Err(rustix::io::Errno::AGAIN | rustix::io::Errno::INTR) => false,
            _ => {
                // Where it cannot be heard any more, the time is still asked when it is due.
                let _ = self.arm();
                true
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::Clock;

    #[test]
    fn a_clock_that_nobody_sets_says_nothing() {
        let clock = Clock::new().expect("a timer");
        assert!(!clock.was_set() && !clock.was_set());
    }
}
