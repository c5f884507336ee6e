//! The shop: what stands on its prints, what its work takes and costs, its tools, and its target sets.

use actix_web::http::StatusCode;
use actix_web::{HttpResponse, web};
use askama::Template;
use gradimen_bench::model::shop::{HouseSpec, Shop, Units, Work};
use gradimen_bench::text::next::job_plan as says;
use gradimen_store::StoreError;
use gradimen_store::shop::KeptShop;
use jiff::Timestamp;

use super::{page, redirect};
use crate::access::Kept;
use crate::components::{Choice, Head};
use crate::errors::Failure;
use crate::filters;
use crate::forms::{Field, Fields, shop as form};
use crate::vocabulary::*;

struct WorkRow {
    name: &'static str,
    minutes: Field,
    price: Field,
}

struct SpecRow {
    name: String,
    kind: &'static str,
    touch: &'static str,
    says: String,
}

/// The form of a target set.
struct SpecForm {
    fields: Fields,
    /// Its name as it is kept; nothing for a new one.
    was: String,
    kinds: Vec<Choice>,
    touches: Vec<Choice>,
    methods: Vec<Choice>,
    inner: Vec<Choice>,
    references: Vec<Choice>,
}

#[derive(Template)]
#[template(path = "pages/shop.html")]
struct ShopPage {
    head: Head,
    seen: u32,
    fields: Fields,
    units: Vec<Choice>,
    shown: Vec<Choice>,
    tools: Vec<(&'static str, &'static str, Vec<Choice>)>,
    work: Vec<WorkRow>,
    specs: Vec<SpecRow>,
    spec: Option<SpecForm>,
    conflict: bool,
}

impl ShopPage {
    fn new(kept: &KeptShop, fields: Option<Fields>, spec: Option<(String, Fields)>) -> Self {
        let shop = &kept.shop;
        let fields = fields.unwrap_or_else(|| {
            let mut fields = Fields::default();
            form::fill(&mut fields, shop);
            fields
        });
        Self {
            head: Head::new(),
            seen: kept.version,
            units: chosen(&fields, "units", Units::name),
            shown: chosen(&fields, "shown", Units::name),
            tools: [
                ("tool_relief", "Relief"),
                ("tool_nut", "Nut"),
                ("tool_action", "Action"),
                ("tool_pickups", "Pickups"),
            ]
            .into_iter()
            .map(|(name, label)| (name, label, tools(&fields, name)))
            .collect(),
            work: Work::all()
                .map(|work| WorkRow {
                    name: work.name(),
                    minutes: fields.field(&form::of_work(work, "minutes")),
                    price: fields.field(&form::of_work(work, "price")),
                })
                .collect(),
            specs: shop.specs.iter().map(row).collect(),
            spec: spec.map(|(was, fields)| SpecForm::new(was, fields)),
            fields,
            conflict: false,
        }
    }
}

fn chosen<T: Keyed>(fields: &Fields, name: &str, label: fn(T) -> &'static str) -> Vec<Choice> {
    let now = fields.text(name);
    T::all()
        .map(|each| Choice::of(each.key(), label(each), each.key() == now))
        .collect()
}

fn tools(fields: &Fields, name: &str) -> Vec<Choice> {
    let of: &[Tool] = if matches!(name, "tool_relief" | "tool_nut") {
        &[Tool::Feeler, Tool::Dial, Tool::Caliper]
    } else {
        &[Tool::Rule64, Tool::Rule32, Tool::RuleHalfMm, Tool::Dial]
    };
    let now = fields.text(name);
    let any = Choice::of("", "as written", now.is_empty());
    let each = of
        .iter()
        .map(|tool| Choice::of(tool.key(), tool.name(), tool.key() == now));
    std::iter::once(any).chain(each).collect()
}

/// A set by the usual board of its kind.
fn row(spec: &HouseSpec) -> SpecRow {
    let usual = defaults::most_usual(spec.kind);
    SpecRow {
        name: spec.name.clone(),
        kind: spec.kind.key(),
        touch: spec.touch.key(),
        says: spec
            .targets(&usual)
            .map_or_else(|error| error.to_string(), |targets| says::values(&targets)),
    }
}

impl SpecForm {
    fn new(was: String, fields: Fields) -> Self {
        let kind = Kind::from_key(fields.text("kind")).unwrap_or(Kind::Guitar);
        let usual = defaults::most_usual(kind);
        let now = fields.text("relief_method");
        let methods = relief_schools(&usual)
            .into_iter()
            .map(|school| Choice::of(school.key, school.name, school.key == now));
        Self {
            kinds: chosen(&fields, "kind", Kind::key),
            touches: chosen(&fields, "touch", Touch::key),
            methods: methods.collect(),
            inner: chosen(&fields, "inner", Inner::name),
            references: chosen(&fields, "true_to", IntonationReference::name),
            was,
            fields,
        }
    }
}

/// What is shown of the shop, and of one of its sets.
#[derive(Debug, serde::Deserialize)]
pub(crate) struct Query {
    /// A set to change, by its name.
    spec: Option<String>,
    /// A new set for this kind of instrument ...
    new: Option<String>,
    /// ... and this touch.
    touch: Option<String>,
}

/// The shop, and the form of a target set where one is asked for.
pub(crate) async fn show(store: Kept, query: web::Query<Query>) -> Result<HttpResponse, Failure> {
    let kept = store.shop().await?;
    let spec = match (&query.spec, &query.new) {
        (Some(name), _) => {
            let spec = kept.shop.spec(name).ok_or(Failure::NotFound)?;
            Some((spec.name.clone(), spec.clone()))
        }
        (None, Some(kind)) => {
            let kind = Kind::from_key(kind).unwrap_or(Kind::Guitar);
            let touch = query.touch.as_deref().and_then(Touch::from_key);
            let touch = touch.unwrap_or(Touch::Medium);
            let usual = defaults::most_usual(kind);
            let targets = defaults::targets(&usual, touch);
            let spec = HouseSpec::of("", &usual, touch, &targets);
            Some((String::new(), spec))
        }
        (None, None) => None,
    };
    let spec = spec.map(|(was, spec)| {
        let mut fields = Fields::default();
        form::fill_spec(&mut fields, &spec);
        (was, fields)
    });
    page(StatusCode::OK, &ShopPage::new(&kept, None, spec))
}

/// Keeps what was written: of the shop, or of one of its sets.
pub(crate) async fn keep(
    store: Kept,
    sent: web::Form<Vec<(String, String)>>,
) -> Result<HttpResponse, Failure> {
    let mut fields = Fields::from(sent.into_inner());
    let kept = store.shop().await?;
    let what = fields.text("what").to_owned();
    let was = fields.text("was").to_owned();
    let shop = match what.as_str() {
        "shop" => form::read(&mut fields, &kept.shop),
        "spec" => with_spec(&mut fields, &kept.shop, &was),
        "drop" => Some(Shop {
            specs: kept
                .shop
                .specs
                .iter()
                .filter(|spec| spec.name != was)
                .cloned()
                .collect(),
            ..kept.shop.clone()
        }),
        _ => return Err(Failure::Form("there is no such form".into())),
    };
    let shown = |fields: Fields| {
        if what == "spec" {
            ShopPage::new(&kept, None, Some((was.clone(), fields)))
        } else {
            ShopPage::new(&kept, Some(fields), None)
        }
    };
    let Some(shop) = shop else {
        return page(StatusCode::UNPROCESSABLE_ENTITY, &shown(fields));
    };
    let seen = fields.text("seen").parse().unwrap_or(0);
    match store.keep_shop(seen, &shop, Timestamp::now()).await {
        Ok(()) => Ok(redirect("/shop")),
        Err(StoreError::Conflict { .. }) => {
            // What another window kept stands in the list; what was typed here stays in its form.
            let mut answer = shown(fields);
            answer.conflict = true;
            page(StatusCode::CONFLICT, &answer)
        }
        Err(other) => Err(other.into()),
    }
}

/// The shop with a set changed, or added where it has no old name.
fn with_spec(fields: &mut Fields, shop: &Shop, was: &str) -> Option<Shop> {
    let spec = form::read_spec(fields, shop.units)?;
    let mut next = shop.clone();
    match next.specs.iter_mut().find(|kept| kept.name == was) {
        Some(kept) => *kept = spec,
        None => next.specs.push(spec),
    }
    let valid = next.validate();
    fields.keep("name", valid)?;
    Some(next)
}
