//! Signals, as something that a loop can wait for.

use std::os::unix::net::UnixStream;

/// A pipe that tells of ended programs and of signals to end, and the pipes that tell only of the latter.
pub fn signals() -> std::io::Result<(UnixStream, Vec<(i32, UnixStream)>)> {
    let (read, write) = UnixStream::pair()?;
    read.set_nonblocking(true)?;
    write.set_nonblocking(true)?;
    let mut stops = Vec::new();
    // What would end a program that does not expect it means nothing here, such as the end of the terminal it came from.
    for signal in [signal_hook::consts::SIGHUP, signal_hook::consts::SIGUSR1, signal_hook::consts::SIGUSR2] {
        signal_hook::flag::register(signal, std::sync::Arc::default())?;
    }
    for signal in [signal_hook::consts::SIGTERM, signal_hook::consts::SIGINT] {
        let (stop, told) = UnixStream::pair()?;
        stop.set_nonblocking(true)?;
        told.set_nonblocking(true)?;
        signal_hook::low_level::pipe::register(signal, told)?;
        signal_hook::low_level::pipe::register(signal, write.try_clone()?)?;
        stops.push((signal, stop));
    }
    signal_hook::low_level::pipe::register(signal_hook::consts::SIGCHLD, write)?;
    Ok((read, stops))
}
