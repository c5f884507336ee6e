//! What the core computes most often.
#![allow(missing_docs, clippy::unwrap_used)]

use std::hint::black_box;

use criterion::{Criterion, criterion_group, criterion_main};
use gradimen_core::intonation::{Fingering, Heights, Speaking};
use gradimen_core::pitch::{ConcertPitch, Pitch};
use gradimen_core::quantity::{Cents, Length};
use gradimen_core::string::StringSpec;
use gradimen_core::units::{LengthUnit, parse_length};

fn speaking() -> Speaking {
    let string = StringSpec::plain(Length::from_thou(17.0)).unwrap();
    let note: Pitch = "G3".parse().unwrap();
    let heights = Heights::new(Length::from_mm(0.5), Length::from_mm(1.75)).unwrap();
    Speaking::new(
        &string,
        note.frequency(ConcertPitch::default()),
        Length::from_mm(648.0),
        heights,
        Fingering::default(),
    )
}

fn benches(criterion: &mut Criterion) {
    let string = speaking();
    criterion.bench_function("one fretted note", |bench| {
        bench.iter(|| black_box(string).error(12, black_box(Length::from_mm(3.0))));
    });
    criterion.bench_function("setback of one string", |bench| {
        bench.iter(|| black_box(string).setback_for(12, Cents::ZERO));
    });
    criterion.bench_function("read a length", |bench| {
        bench.iter(|| parse_length(black_box("4.5/64 in"), LengthUnit::Millimetre));
    });
}

criterion_group!(core, benches);
criterion_main!(core);
