//! What lies beside the page of a job that is practised, as it is shown: its tools, the time, and what is asked of the bench.

use gradimen_practice::tools::Shown;

/// A place where a tool can be laid on, as a link.
#[derive(Debug, Clone)]
pub(crate) struct Lay {
    pub(crate) href: String,
    pub(crate) label: String,
    pub(crate) chosen: bool,
}

/// A tool with the places it can be laid on, as links.
#[derive(Debug, Clone)]
pub(crate) struct Row {
    pub(crate) name: &'static str,
    pub(crate) at: Vec<Lay>,
}

/// What lies beside the page.
#[derive(Debug, Clone)]
pub(crate) struct Panel {
    pub(crate) hints: &'static str,
    /// Whether the next move is kept back.
    pub(crate) hides: bool,
    /// Whether it may be asked for.
    pub(crate) asks: bool,
    pub(crate) took: String,
    pub(crate) rows: Vec<Row>,
    pub(crate) shown: Option<Shown>,
    /// Whether a neck settles here.
    pub(crate) settles: bool,
    /// Whether a string can be plucked here, and which.
    pub(crate) plucks: Option<u8>,
    /// Whether the stroke that was made can be heard, and for what the ear listens to it.
    pub(crate) strikes: Option<Strikes>,
    pub(crate) handed_in: bool,
}

/// A stroke that can be heard.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Strikes {
    pub(crate) string: u8,
    pub(crate) fret: u8,
}
