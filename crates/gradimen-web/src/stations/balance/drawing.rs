//! A vibrato from the side, now and wanted: the plate on its edge with block, springs and claw, or a
//! tail on its pivot with one spring between its seats.

use crate::vocabulary::*;
use gradimen_core::quantity::{Angle, Length};
use gradimen_core::units::print::UNIT;
use gradimen_core::vibrato::Plate;

use crate::svg::{Anchor, Drawing};
use crate::words;

const PER_MM: f64 = 4.8;
/// The knife edge.
const EDGE: (f64, f64) = (700.0, 92.0);
const HEIGHT: f64 = 330.0;
const FIELD: (f64, f64) = (236.0, 44.0);
/// Springs from above stand here.
const ABOVE: f64 = 40.0;

/// Draws it; `field` is the HTML of the gap's field.
pub(crate) fn draw(balance: &BalancePlan, mirrored: bool, field: &str) -> String {
    match balance.record.kind {
        VibratoKind::BodySprings => cavity(balance, mirrored, field),
        VibratoKind::TailSpring | VibratoKind::ArmSpring => tail(balance, mirrored, field),
    }
}

/// A tail: bar on its pivot, strings above it, spring before it. Drawn larger than it is.
fn tail(balance: &BalancePlan, mirrored: bool, field: &str) -> String {
    const SCALE: f64 = 7.5;
    const PIVOT: (f64, f64) = (760.0, 104.0);
    let mut drawing = Drawing::new(mirrored);
    let plate = balance.record.plate();
    let at = |x: Length, z: Length| (PIVOT.0 + x.mm() * SCALE, PIVOT.1 - z.mm() * SCALE);
    let turned = |x: Length, z: Length, angle: Angle| {
        let (x, z) = Plate::turned(x, z, angle);
        at(x, z)
    };
    let mm = Length::from_mm;
    let level_gap = balance.record.level_gap.middle();
    let (left, body) = at(mm(-70.0), -level_gap);
    let (right, _) = at(mm(20.0), Length::ZERO);
    // The body under the bar; a seat may lie in it.
    drawing.rect("wood", (left, body), (right - left, 12.0), 0.0);
    let wanted = plate.angle_of(balance.target - level_gap);
    let bar = plate.tail_back;
    for (angle, class) in [(wanted, "stair"), (balance.angle, "string")] {
        let front = turned(bar, Length::ZERO, angle);
        drawing.line(class, front, turned(mm(6.0), Length::ZERO, angle));
        let hold = turned(plate.crown_back, plate.crown_up, angle);
        drawing.line(class, turned(plate.crown_back, Length::ZERO, angle), hold);
        if class == "string" {
            drawing.line("wire-thin", (left, hold.1 - 12.0), hold);
            let seat = at(-plate.claw_front, balance.claw.0 - plate.claw_down);
            spring(
                &mut drawing,
                seat,
                turned(plate.hook_back, Length::ZERO, angle),
            );
            drawing.rect("saddle", (seat.0 - 18.0, seat.1), (36.0, 8.0), 2.0);
            drawing.line(gap_class(balance), front, (front.0, body));
            drawing.html((front.0 - FIELD.0 - 16.0, front.1 + 6.0), FIELD, field);
        }
    }
    let aim = at(-plate.claw_front, balance.claw.1 - plate.claw_down);
    if (balance.claw.1 - balance.claw.0).abs() > mm(0.1) {
        drawing.rect("aim", (aim.0 - 24.0, aim.1), (48.0, 5.0), 2.0);
    }
    drawing.text(
        "small",
        (aim.0 + 34.0, aim.1 + 8.0),
        Anchor::Start,
        "seat of the spring",
    );
    drawing.text(
        "small",
        (PIVOT.0 + 16.0, PIVOT.1 + 22.0),
        Anchor::Start,
        "pivot",
    );
    let neck = if mirrored { "right" } else { "left" };
    drawing.text(
        "small",
        (20.0, HEIGHT - 16.0),
        Anchor::Start,
        &format!("tail from the side, neck at the {neck}; dashed: target"),
    );
    let label = format!(
        "Tail of the vibrato: gap {} {UNIT}, target {}. The text below has the same numbers.",
        words::in_unit(balance.now.value, 1),
        words::in_unit(balance.target, 1)
    );
    drawing.finish(HEIGHT.max(aim.1 + 24.0), &label)
}

fn cavity(balance: &BalancePlan, mirrored: bool, field: &str) -> String {
    let mut drawing = Drawing::new(mirrored);
    let plate = balance.record.plate();
    let at = |x: Length, z: Length| (EDGE.0 + x.mm() * PER_MM, EDGE.1 - z.mm() * PER_MM);
    let turned = |x: Length, z: Length, angle: Angle| {
        let (x, z) = Plate::turned(x, z, angle);
        at(x, z)
    };
    let mm = Length::from_mm;
    // The body, with its cavity below the edge.
    let floor = balance.record.level_gap.middle();
    let (left, top) = at(mm(-125.0), -floor - mm(1.0));
    drawing.rect("wood", (left, top), (mm(118.0).mm() * PER_MM, 10.0), 0.0);
    let (behind, _) = at(mm(12.0), Length::ZERO);
    drawing.rect("wood", (behind, top), (mm(40.0).mm() * PER_MM, 10.0), 0.0);
    let (_, deep) = at(Length::ZERO, -(plate.hook_down + mm(6.0)));
    drawing.line(
        "rule",
        (left, deep),
        (behind + mm(40.0).mm() * PER_MM, deep),
    );
    let angle = balance.angle;
    let wanted = plate.angle_of(balance.target - floor);
    for (angle, class) in [(wanted, "stair"), (angle, "string")] {
        let tail = turned(plate.tail_back, Length::ZERO, angle);
        let hook = turned(plate.hook_back, -plate.hook_down, angle);
        drawing.line(class, turned(mm(-6.0), Length::ZERO, angle), tail);
        drawing.line(class, turned(Length::ZERO, Length::ZERO, angle), hook);
        let crown = turned(plate.crown_back, plate.crown_up, angle);
        drawing.line(class, turned(plate.crown_back, Length::ZERO, angle), crown);
        if class == "string" {
            drawing.line("wire-thin", (left, crown.1), crown);
            let claw = at(-(plate.claw_front + balance.claw.0), -plate.claw_down);
            spring(&mut drawing, claw, hook);
            drawing.rect("saddle", (claw.0 - 5.0, claw.1 - 16.0), (10.0, 32.0), 2.0);
        }
    }
    let aim = at(-(plate.claw_front + balance.claw.1), -plate.claw_down);
    if (balance.claw.1 - balance.claw.0).abs() > mm(0.3) {
        drawing.rect("aim", (aim.0 - 3.0, aim.1 - 20.0), (6.0, 40.0), 2.0);
    }
    drawing.text("small", (aim.0, aim.1 - 26.0), Anchor::Middle, "claw");
    drawing.text("small", (EDGE.0 - 8.0, EDGE.1 - 12.0), Anchor::End, "edge");
    let tail = turned(plate.tail_back, Length::ZERO, angle);
    drawing.line(gap_class(balance), tail, (tail.0, top));
    drawing.html((tail.0 + 16.0, tail.1 - 22.0), FIELD, field);
    from_above(&mut drawing, balance);
    let neck = if mirrored { "right" } else { "left" };
    drawing.text(
        "small",
        (20.0, 24.0),
        Anchor::Start,
        &format!("cavity from the side, neck at the {neck}; dashed: target"),
    );
    let label = format!(
        "Cavity of the vibrato: gap {} {UNIT}, target {}. The text below has the same numbers.",
        words::in_unit(balance.now.value, 1),
        words::in_unit(balance.target, 1)
    );
    drawing.finish(HEIGHT, &label)
}

/// The gap is drawn in the colour of what is off only when it is.
fn gap_class(balance: &BalancePlan) -> &'static str {
    if balance.verdict.is_out() {
        "gap"
    } else {
        "rule"
    }
}

/// A spring as a zigzag between its ends.
fn spring(drawing: &mut Drawing, from: (f64, f64), to: (f64, f64)) {
    const COILS: i32 = 22;
    const WIDE: f64 = 9.0;
    let (dx, dy) = (to.0 - from.0, to.1 - from.1);
    let length = dx.hypot(dy).max(1.0);
    let across = (-dy / length * WIDE, dx / length * WIDE);
    let points: Vec<(f64, f64)> = (0..=COILS)
        .map(|coil| {
            let share = f64::from(coil) / f64::from(COILS);
            let aside = match coil {
                0 | COILS => 0.0,
                _ if coil % 2 == 0 => 1.0,
                _ => -1.0,
            };
            (
                from.0 + dx * share + across.0 * aside,
                from.1 + dy * share + across.1 * aside,
            )
        })
        .collect();
    drawing.polyline("coil", &points);
}

/// The springs as they lie side by side.
fn from_above(drawing: &mut Drawing, balance: &BalancePlan) {
    let count = balance.record.springs;
    let middle = f64::from(count - 1) / 2.0;
    for index in 0..count {
        let place = f64::from(index) - middle;
        let y = |apart: f64| HEIGHT - 68.0 + place * apart;
        let claw = if balance.record.converging { 5.0 } else { 16.0 };
        drawing.line("coil", (ABOVE, y(claw)), (ABOVE + 190.0, y(16.0)));
    }
    // The claw, askew where it was read so: ten times what its ends differ by.
    let skew = balance
        .ends
        .map_or(0.0, |[treble, bass]| (bass - treble).mm())
        .clamp(-4.0, 4.0);
    drawing.line(
        "string",
        (ABOVE - 6.0 + skew * 3.0, HEIGHT - 112.0),
        (ABOVE - 6.0 - skew * 3.0, HEIGHT - 24.0),
    );
    let style = if balance.record.converging {
        ", converging"
    } else {
        ""
    };
    drawing.text(
        "small",
        (ABOVE, HEIGHT - 120.0),
        Anchor::Start,
        &format!("{count} springs from behind{style}"),
    );
}
