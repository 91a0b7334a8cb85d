//! Calls to a bus that nobody waits for: they are made on a thread of their own, which ends with them.

use std::io::{Read, Write};
use std::os::fd::{AsFd, BorrowedFd};
use std::os::unix::net::UnixStream;
use std::sync::mpsc::{Receiver, channel};
use std::time::Duration;

/// Something that is being asked of a bus.
pub struct Asked<T> {
    answer: Receiver<T>,
    woken: UnixStream,
}

impl<T: Send + 'static> Asked<T> {
    /// Begins to ask.
    ///
    /// # Errors
    ///
    /// When the system gives no thread, or no pipe.
    pub fn begin(ask: impl FnOnce() -> T + Send + 'static) -> std::io::Result<Asked<T>> {
        let (sends, answer) = channel();
        let (mut wake, woken) = UnixStream::pair()?;
        woken.set_nonblocking(true)?;
        std::thread::Builder::new().name("bus".to_owned()).spawn(move || {
            let _ = sends.send(ask());
            let _ = wake.write(&[1]);
        })?;
        Ok(Asked { answer, woken })
    }

    /// What to wait on.
    pub fn fd(&self) -> BorrowedFd<'_> {
        self.woken.as_fd()
    }

    /// The answer, if it is there.
    pub fn take(&mut self) -> Option<T> {
        let mut buffer = [0; 8];
        let _ = self.woken.read(&mut buffer);
        self.answer.try_recv().ok()
    }

    /// The answer, if it comes so soon.
    pub fn take_within(&mut self, time: Duration) -> Option<T> {
        self.answer.recv_timeout(time).ok()
    }
}
