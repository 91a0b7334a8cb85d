//! What a widget has to show, out of the values of its module.

use std::borrow::Cow;
use std::sync::LazyLock;

use jovrik_values::{ElementState, FieldValue, Pattern, Values, each_of, past_of};

use crate::bar::{BarInput, values};
use crate::desk::WindowManager;
use crate::rice::{BuiltInSource, Module, Rice, ScaleBound, Widget, WidgetKind, WidgetRepeat};
use crate::scene::WidgetReading;

/// What a clock says where its widget does not.
pub const CLOCK: &str = "{time:%H:%M}";

static CLOCK_TEXT: LazyLock<Pattern> = LazyLock::new(|| Pattern::parse(CLOCK).unwrap_or_default());

/// The fields that are drawn where none is named, the first that there is.
pub const NUMBERS: [&str; 5] = ["percent", "load", "level", "degrees", "value"];

/// In so many steps something fills: what does not look other is not drawn anew.
const STEPS: f32 = 200.0;

/// The module that a widget shows, with its name: the one it names, else for a clock the first of the time.
pub fn module_of<'r>(rice: &'r Rice, widget: &'r Widget) -> Option<(&'r str, &'r Module)> {
    if widget.kind == WidgetKind::Clock && widget.module.is_empty() {
        let mut times = rice.module.iter().filter(|(_, module)| module.source.kind.is(BuiltInSource::Time));
        return times.next().map(|(name, module)| (name.as_str(), module));
    }
    rice.module.get(&widget.module).map(|module| (widget.module.as_str(), module))
}

/// The field of a widget that is drawn, among those that there are.
pub fn number_field(widget: &Widget, has: impl Fn(&str) -> bool) -> Option<&str> {
    if widget.field.is_empty() { NUMBERS.into_iter().find(|name| has(name)) } else { Some(&widget.field) }
}

fn finite(number: f64) -> Option<f64> {
    number.is_finite().then_some(number)
}

/// A number as a part of what lies between two ends, from 0 to 1.
fn part(number: f64, (from, to): (f64, f64)) -> Option<f32> {
    let part = (finite(number)? - from) / (to - from);
    finite(part).map(|part| part.clamp(0.0, 1.0) as f32)
}

/// How full something is, in steps that can be told apart.
fn full(number: f64, ends: (f64, f64)) -> Option<f32> {
    part(number, ends).map(|part| (part * STEPS).round() / STEPS)
}

fn state(values: &Values, module: &Module) -> Vec<ElementState> {
    values.grade(&module.grades).state().into_iter().collect()
}

/// What a widget says of some values.
fn text(widget: &Widget, module: &Module, values: &Values) -> String {
    let pattern = match (&widget.text, widget.kind) {
        (Some(own), _) => own,
        (None, WidgetKind::Clock) => &CLOCK_TEXT,
        (None, _) => module.case(values).0,
    };
    pattern.fill(values).unwrap_or_else(|| module.empty.clone())
}

/// The modules that a widget shows, with their names: those of its rows, or its own.
fn modules_of<'r>(rice: &'r Rice, widget: &'r Widget) -> Vec<(&'r str, &'r Module)> {
    match widget.kind {
        WidgetKind::List => widget.rows.iter().filter_map(|name| Some((name.as_str(), rice.module.get(name)?))).collect(),
        _ => module_of(rice, widget).into_iter().collect(),
    }
}

/// What the modules that a widget shows have to say on a monitor.
pub fn told<'n>(desk: &WindowManager, monitor: usize, now: &BarInput<'n>, widget: &Widget) -> Vec<Cow<'n, Values>> {
    let modules = modules_of(desk.rice(), widget);
    modules.into_iter().map(|(name, module)| values(desk, monitor, now, name, module)).collect()
}

/// What a widget has to show of what its modules [`told`].
pub fn gauge(rice: &Rice, widget: &Widget, told: &[Cow<'_, Values>]) -> WidgetReading {
    let mut modules = modules_of(rice, widget).into_iter().zip(told.iter().map(Cow::as_ref));
    if widget.kind == WidgetKind::List {
        let row = |((name, module), values): ((&str, &Module), &Values)| {
            let text = module.case(values).0.fill(values).unwrap_or_else(|| module.empty.clone());
            WidgetReading {
                label: name.replace(['-', '_'], " "),
                text,
                states: state(values, module),
                ..WidgetReading::default()
            }
        };
        return WidgetReading { inner: modules.map(row).collect(), ..WidgetReading::default() };
    }
    let label = widget.label.clone();
    let Some(((_, module), values)) = modules.next() else {
        let text = widget.text.as_ref().and_then(|text| text.fill(&Values::default())).unwrap_or_default();
        return WidgetReading { label, text, ..WidgetReading::default() };
    };
    let end = |end: &ScaleBound| match end {
        ScaleBound::Number(number) => Some(*number),
        ScaleBound::Field(name) => values.0.get(name).and_then(FieldValue::number),
    };
    let ends = end(&widget.from).zip(end(&widget.to));
    let field = number_field(widget, |name| values.0.contains_key(name));
    let numbers = |name: &str| match values.0.get(name) {
        Some(FieldValue::Past(numbers)) => Some(numbers.as_slice()),
        _ => None,
    };
    if let (WidgetRepeat::Core, Some(field), Some(ends)) = (widget.each, field, ends) {
        let one = |(nth, number): (usize, &f64)| {
            let core = FieldValue::Number(nth as f64 + 1.0);
            let own = values.clone().and(field, FieldValue::Number(*number)).and("value", FieldValue::Number(number.round()));
            let own = own.and("core", core);
            let label = format!("{label} {}", nth + 1).trim_start().to_owned();
            let text = text(widget, module, &own);
            WidgetReading { label, text, part: full(*number, ends), states: state(&own, module), ..WidgetReading::default() }
        };
        let inner = numbers(&each_of(field)).unwrap_or_default().iter().enumerate().map(one).collect();
        return WidgetReading { inner, ..WidgetReading::default() };
    }
    let mut gauge =
        WidgetReading { label, text: text(widget, module, values), states: state(values, module), ..WidgetReading::default() };
    let (Some(field), Some(ends)) = (field, ends) else { return gauge };
    gauge.part = values.0.get(field).and_then(FieldValue::number).and_then(|number| full(number, ends));
    if widget.kind == WidgetKind::Graph {
        let most = usize::try_from(widget.samples.0).unwrap_or(2).max(2);
        let (line, slots) = match (numbers(field), numbers(&past_of(field))) {
            // What comes as a whole line fills the whole width.
            (Some(line), _) => (line, line.len()),
            (None, Some(past)) => (past, most),
            (None, None) => (&[][..], most),
        };
        let shown = &line[line.len().saturating_sub(slots)..];
        let empty = slots - shown.len();
        let step = 1.0 / (slots.max(2) - 1) as f32;
        let point = |(nth, number): (usize, &f64)| Some(((empty + nth) as f32 * step, part(*number, ends)?));
        gauge.curve = shown.iter().enumerate().filter_map(point).collect();
        let along = values.0.get(&widget.mark).and_then(FieldValue::number).and_then(finite);
        gauge.mark = along.map(|along| (along / 100.0).clamp(0.0, 1.0) as f32);
    }
    gauge
}
