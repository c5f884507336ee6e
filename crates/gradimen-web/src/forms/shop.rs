//! What a shop writes of itself: name, tools, times and prices; and its target sets.

use gradimen_bench::model::shop::{HouseSpec, Offered, Shop, Tools, Units, Work};

use super::Fields;
use crate::vocabulary::*;

/// The name of a field of a kind of work.
pub(crate) fn of_work(work: Work, part: &str) -> String {
    format!("{}_{part}", work.key())
}

/// Shows what a shop keeps of itself, its target sets aside.
pub(crate) fn fill(fields: &mut Fields, shop: &Shop) {
    fields.set("shop_name", shop.name.clone());
    fields.set("currency", shop.currency.clone());
    fields.set("units", shop.units.key());
    fields.set("shown", shop.shown.key());
    for (name, tool) in [
        ("tool_relief", shop.tools.relief),
        ("tool_nut", shop.tools.nut),
        ("tool_action", shop.tools.action),
        ("tool_pickups", shop.tools.pickups),
    ] {
        fields.set(name, tool.map_or("", Keyed::key));
    }
    for offered in &shop.work {
        let price = offered
            .price
            .map_or(String::new(), |price| price.to_string());
        fields.set(
            &of_work(offered.work, "minutes"),
            offered.minutes.to_string(),
        );
        fields.set(&of_work(offered.work, "price"), price);
    }
}

/// Reads it back into a shop whose target sets stay.
pub(crate) fn read(fields: &mut Fields, now: &Shop) -> Option<Shop> {
    let units = Units::from_key(fields.text("units")).ok_or("choose inches or millimetres");
    let units = fields.keep("units", units);
    let shown = Units::from_key(fields.text("shown")).ok_or("choose inches or millimetres");
    let shown = fields.keep("shown", shown);
    let tool = |name: &str| Tool::from_key(fields.text(name));
    let tools = Tools {
        relief: tool("tool_relief"),
        nut: tool("tool_nut"),
        action: tool("tool_action"),
        pickups: tool("tool_pickups"),
    };
    // All of them, so that every field that is wrong says so.
    let work: Vec<Option<Offered>> = Work::all().map(|work| read_work(fields, work)).collect();
    let shop = Shop {
        name: fields.text("shop_name").to_owned(),
        currency: fields.text("currency").to_owned(),
        units: units?,
        shown: shown?,
        tools,
        work: work.into_iter().collect::<Option<_>>()?,
        specs: now.specs.clone(),
    };
    let valid = shop.validate();
    fields.keep("shop_name", valid)?;
    Some(shop)
}

fn read_work(fields: &mut Fields, work: Work) -> Option<Offered> {
    let (minutes, price) = (of_work(work, "minutes"), of_work(work, "price"));
    let text = fields.text(&minutes).to_owned();
    let read = text
        .parse::<u32>()
        .ok()
        .filter(|minutes| *minutes <= 10_000);
    let read = read.ok_or(format!("\"{text}\" is not understood; write minutes: 90"));
    let minutes = fields.keep(&minutes, read);
    let text = fields.text(&price).replace(',', ".");
    let read = if text.is_empty() {
        Ok(None)
    } else {
        let number = text
            .parse::<f64>()
            .ok()
            .filter(|price| (0.0..=1e6).contains(price));
        number.map(Some).ok_or(format!(
            "\"{text}\" is not understood; write a price: 45 or 45.50"
        ))
    };
    let price = fields.keep(&price, read);
    Some(Offered {
        work,
        minutes: minutes?,
        price: price?,
    })
}

/// Shows a target set.
pub(crate) fn fill_spec(fields: &mut Fields, spec: &HouseSpec) {
    let given = &spec.tolerances;
    let written = |measured: &Option<Measurement>| {
        measured
            .as_ref()
            .map_or(String::new(), |measured| measured.written.clone())
    };
    let number = |cents: Option<f64>| cents.map_or(String::new(), |cents| cents.to_string());
    for (name, value) in [
        ("name", spec.name.clone()),
        ("kind", spec.kind.key().to_owned()),
        ("touch", spec.touch.key().to_owned()),
        ("relief_method", spec.relief_method.clone()),
        ("relief", spec.relief.written.clone()),
        ("nut_held", spec.nut_held.to_string()),
        ("nut_treble", spec.nut_treble.written.clone()),
        ("nut_bass", spec.nut_bass.written.clone()),
        ("action_fret", spec.action_fret.to_string()),
        ("action_treble", spec.action_treble.written.clone()),
        ("action_bass", spec.action_bass.written.clone()),
        ("inner", spec.inner.key().to_owned()),
        ("within_relief", written(&given.relief)),
        ("within_nut", written(&given.nut)),
        ("within_action", written(&given.action)),
        ("within_gap", written(&given.gap)),
        ("within_pickup", written(&given.pickup)),
        ("within_cents", number(given.intonation_cents)),
        (
            "true_to",
            spec.intonation_reference
                .unwrap_or(IntonationReference::Harmonic)
                .key()
                .to_owned(),
        ),
        ("aim", number(spec.intonation_aim_cents)),
    ] {
        fields.set(name, value);
    }
}

/// Reads a target set; bare numbers are in the shop's units.
pub(crate) fn read_spec(fields: &mut Fields, units: Units) -> Option<HouseSpec> {
    let kind = Kind::from_key(fields.text("kind")).ok_or("choose guitar, baritone or bass");
    let kind = fields.keep("kind", kind);
    let touch = Touch::from_key(fields.text("touch")).ok_or("choose light, medium or hard");
    let touch = fields.keep("touch", touch);
    let inner = Inner::from_key(fields.text("inner")).ok_or("choose how inner strings are laid");
    let inner = fields.keep("inner", inner);
    let length = |fields: &mut Fields, name: &str, field| fields.exact(name, &units.field(field));
    let relief = length(fields, "relief", limits::RELIEF);
    let nut_treble = length(fields, "nut_treble", limits::NUT);
    let nut_bass = length(fields, "nut_bass", limits::NUT);
    let action_treble = length(fields, "action_treble", limits::ACTION);
    let action_bass = length(fields, "action_bass", limits::ACTION);
    let nut_held = fields.number("nut_held", "a fret, or 0 for open,", 0, 12);
    let action_fret = fields.number("action_fret", "a fret", 5, 36);
    let perhaps =
        |fields: &mut Fields, name: &str, field| fields.perhaps(name, &units.field(field));
    let tolerances = [
        perhaps(fields, "within_relief", limits::TOLERANCE_THOU),
        perhaps(fields, "within_nut", limits::TOLERANCE_THOU),
        perhaps(fields, "within_action", limits::TOLERANCE_64),
        perhaps(fields, "within_gap", limits::TOLERANCE),
        perhaps(fields, "within_pickup", limits::TOLERANCE_64),
    ];
    let intonation_cents = fields.cents("within_cents", &limits::CENTS_TOLERANCE);
    let aim = fields.cents_aim();
    let reference = IntonationReference::from_key(fields.text("true_to"))
        .filter(|to| *to != IntonationReference::Harmonic);
    let [in_relief, in_nut, in_action, in_gap, in_pickup] = tolerances;
    let spec = HouseSpec {
        name: fields.text("name").to_owned(),
        kind: kind?,
        touch: touch?,
        relief_method: fields.text("relief_method").to_owned(),
        relief: relief?,
        nut_held: nut_held?,
        nut_treble: nut_treble?,
        nut_bass: nut_bass?,
        action_fret: action_fret?,
        action_treble: action_treble?,
        action_bass: action_bass?,
        inner: inner?,
        tolerances: Tolerances {
            relief: in_relief?,
            nut: in_nut?,
            action: in_action?,
            gap: in_gap?,
            pickup: in_pickup?,
            intonation_cents: intonation_cents?,
        },
        intonation_reference: reference,
        intonation_aim_cents: aim?,
    };
    let usual = defaults::most_usual(spec.kind);
    // By the usual board of its kind; a shorter one says so when it is chosen there.
    let fits = spec
        .validate()
        .and_then(|()| spec.targets(&usual).map(|_| ()));
    let field = match &fits {
        Err(error) if error.field == "method of relief" => "relief_method",
        Err(error) if error.field == "fret of the action" => "action_fret",
        _ => "name",
    };
    fields.keep(field, fits)?;
    Some(spec)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_shop_and_its_sets_read_back_from_their_forms() {
        let shop = Shop {
            name: "County music library".into(),
            currency: "crowns".into(),
            units: Units::Millimetres,
            shown: Units::Inches,
            tools: Tools {
                action: Some(Tool::Dial),
                ..Tools::default()
            },
            ..Shop::default()
        };
        let mut fields = Fields::default();
        fill(&mut fields, &shop);
        assert_eq!(read(&mut fields, &shop), Some(shop.clone()));
        for spec in &shop.specs {
            let mut fields = Fields::default();
            fill_spec(&mut fields, spec);
            assert_eq!(
                read_spec(&mut fields, Units::Inches).as_ref(),
                Some(spec),
                "{fields:?}"
            );
        }
    }

    #[test]
    fn bare_numbers_are_in_the_shops_units_and_nonsense_stays_where_it_was_typed() {
        let mut fields = Fields::default();
        fill_spec(&mut fields, &Shop::default().specs[0]);
        fields.set("action_bass", "5");
        let by = |units| {
            let mut fields = fields.clone();
            read_spec(&mut fields, units)
                .unwrap()
                .action_bass
                .middle()
                .mm()
        };
        assert!((by(Units::Millimetres) - 5.0).abs() < 1e-9);
        assert!((by(Units::Inches) - 25.4 * 5.0 / 64.0).abs() < 1e-6);
        for (name, text) in [
            ("name", ""),
            ("kind", "harp"),
            ("relief", "much"),
            ("action_fret", "99"),
            ("relief_method", "by_ear"),
            ("within_cents", "1 2"),
            ("nut_held", "-1"),
        ] {
            let mut fields = fields.clone();
            fields.set(name, text);
            assert_eq!(read_spec(&mut fields, Units::Inches), None, "{name}");
            assert!(!fields.field(name).error.is_empty(), "{name} {fields:?}");
            assert_eq!(fields.field(name).value, text);
        }
        let mut fields = Fields::default();
        fill(&mut fields, &Shop::default());
        for (name, text) in [
            ("setup_minutes", "an hour"),
            ("level_price", "dear"),
            ("units", "cubits"),
        ] {
            let mut fields = fields.clone();
            fields.set(name, text);
            assert_eq!(read(&mut fields, &Shop::default()), None, "{name}");
            assert_eq!(fields.field(name).value, text);
            assert!(!fields.field(name).error.is_empty(), "{name}");
        }
    }
}
