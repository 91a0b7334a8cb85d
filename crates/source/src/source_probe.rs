//! One module tried by itself: what its source said, whole.

use std::rc::Rc;
use std::time::{Duration, Instant};

use jovrik_core::rice::{BuiltInSource, Module, SourceKind};
use jovrik_values::Values;
use rustix::event::{PollFd, PollFlags, Timespec, poll};

use crate::command::{Outcome, RunningProgram};
use crate::engine::streams;
use crate::file::{content, expanded};
use crate::kernel::{Kernel, PreviousSample};
use crate::process_tree::ProcessTree;
use crate::source_error::SourceError;
use crate::stream::{News, Stream};

/// What came of one asking.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct ProbeResult {
    /// What its program printed, or its file holds.
    pub raw: Option<String>,
    /// The fields.
    pub values: Values,
    /// Why there is no value.
    pub trouble: Option<String>,
    /// The exit code of its program.
    pub code: Option<i32>,
    /// What its program complained of.
    pub complaint: String,
    /// How long it took.
    pub took: Duration,
}

/// A module's source, to be asked again and again.
#[derive(Debug)]
pub struct SourceProbe {
    module: Module,
    kernel: Kernel,
    before: PreviousSample,
    stream: Option<Stream>,
    family: Rc<ProcessTree>,
}

impl Drop for SourceProbe {
    fn drop(&mut self) {
        self.stream = None;
        self.family.end_all();
    }
}

/// Waits for one of some things to be read, or until a time.
fn wait<'f>(fds: impl Iterator<Item = std::os::fd::BorrowedFd<'f>>, until: Instant) {
    let left = until.saturating_duration_since(Instant::now());
    let timeout = Timespec { tv_sec: left.as_secs() as i64, tv_nsec: i64::from(left.subsec_nanos()) };
    let fds: Vec<_> = fds.collect();
    let mut fds: Vec<PollFd<'_>> = fds.iter().map(|fd| PollFd::new(fd, PollFlags::IN)).collect();
    let _ = poll(&mut fds, Some(&timeout));
}

impl SourceProbe {
    /// Of a module.
    pub fn new(module: Module) -> SourceProbe {
        SourceProbe {
            module,
            kernel: Kernel::default(),
            before: PreviousSample::default(),
            stream: None,
            family: Rc::new(ProcessTree::new()),
        }
    }

    /// Asks once, and waits for the answer within the time that the source has.
    pub fn ask(&mut self) -> ProbeResult {
        let began = Instant::now();
        let mut said = self.answer(began);
        said.took = began.elapsed();
        if let (Some(raw), None) = (&said.raw, &said.trouble) {
            match Values::of_output(raw, &self.module.picks()) {
                Ok(values) => said.values = values,
                Err(why) => said.trouble = Some(why.to_string()),
            }
        }
        said
    }

    fn answer(&mut self, began: Instant) -> ProbeResult {
        let failed = |why: &dyn std::fmt::Display| ProbeResult { trouble: Some(why.to_string()), ..ProbeResult::default() };
        let within = self.module.source.within.0;
        if let Some(argv) = streams(&self.module.source.kind) {
            return self.line(&argv, began + within).unwrap_or_else(|why| failed(&why));
        }
        match &self.module.source.kind {
            SourceKind::BuiltIn(built_in) if built_in.of_desk() => failed(&"only the running desktop knows"),
            SourceKind::BuiltIn(built_in) => {
                let mut ask = || self.kernel.ask(*built_in, &self.module.source.of, &mut self.before, Instant::now());
                let mut answer = ask();
                if *built_in == BuiltInSource::Cpu && matches!(answer, Ok(None)) {
                    std::thread::sleep(Duration::from_millis(250));
                    answer = ask();
                }
                match answer {
                    Ok(values) => ProbeResult { values: values.unwrap_or_default(), ..ProbeResult::default() },
                    Err(why) => failed(&why),
                }
            }
            SourceKind::File(path) => match content(&expanded(path)) {
                Ok(text) => ProbeResult { raw: Some(text), ..ProbeResult::default() },
                Err(why) => failed(&why),
            },
            SourceKind::Run(argv) => match RunningProgram::start(argv, &self.family, within, began) {
                Ok(mut running) => loop {
                    let Some(outcome) = running.step(Instant::now()) else {
                        wait(running.fds(), running.deadline);
                        continue;
                    };
                    let complaint = running.complaint();
                    let (raw, trouble) = match outcome {
                        Outcome::Printed(text) => (Some(text), None),
                        Outcome::Failed(why) => (None, Some(why)),
                    };
                    return ProbeResult { raw, trouble, code: running.code, complaint, ..ProbeResult::default() };
                },
                Err(why) => failed(&why),
            },
            SourceKind::None | SourceKind::Stream(_) => ProbeResult::default(),
        }
    }

    /// The next line of a stream.
    fn line(&mut self, argv: &[String], until: Instant) -> Result<ProbeResult, SourceError> {
        if self.stream.is_none() {
            self.stream = Some(Stream::start(argv, &self.family)?);
        }
        while let Some(stream) = &mut self.stream {
            let now = Instant::now();
            match stream.step(now) {
                News::Line(line) => return Ok(ProbeResult { raw: Some(line), ..ProbeResult::default() }),
                News::Ended(line, how) => {
                    let complaint = stream.complaint();
                    self.stream = None;
                    let trouble = line.is_none().then_some(how);
                    return Ok(ProbeResult { raw: line, trouble, complaint, ..ProbeResult::default() });
                }
                News::None if now >= until => break,
                News::None => match stream.quiet_until {
                    Some(quiet) => std::thread::sleep(quiet.saturating_duration_since(now)),
                    None => wait(stream.fds(), until),
                },
            }
        }
        Err(SourceError::Late)
    }
}
