//! The OpenAPI document, from which the front end's client is generated.

use std::collections::{BTreeMap, HashMap};

use pruvex_app::catalogue::Sort;
use pruvex_app::evidence::{CitationStyle, ReferenceFormat};
use rocket::http::Status;
use rocket::serde::json::Json;
use rocket::{Route, get, routes};
use utoipa::openapi::path::{Operation, Parameter, ParameterBuilder, ParameterIn, PathItem};
use utoipa::openapi::schema::{KnownFormat, ObjectBuilder, Schema, SchemaFormat, Type};
use utoipa::openapi::{Content, Ref, RefOr, Required, Response, ResponseBuilder, Responses};
use utoipa::{Modify, OpenApi};

use crate::problem::Problem;
use crate::query::{Parameters, Times};
use crate::routes::Api;

/// Under which all addresses of the API lie.
pub(crate) const BASE: &str = "/api/v1";

/// Operations for which nobody needs to be signed in.
const OPEN: [(&str, &str); 6] = [
    ("get", "/session"),
    ("post", "/session"),
    ("delete", "/session"),
    ("post", "/session/demo"),
    ("post", "/join/offer"),
    ("post", "/join"),
];

#[derive(OpenApi)]
#[openapi(
    info(title = "Pruvex API", description = "Special tests, their studies, and what a result is worth."),
    components(schemas(Sort, CitationStyle, ReferenceFormat, Problem)),
    modifiers(&Rules)
)]
struct Document;

/// What holds for all operations alike: their base, ids in paths, and how they refuse.
struct Rules;

impl Modify for Rules {
    fn modify(&self, document: &mut utoipa::openapi::OpenApi) {
        let api = Api::openapi();
        if let (Some(known), Some(components)) = (&mut document.components, api.components) {
            known.schemas.extend(components.schemas);
            open_parts(&mut known.schemas);
        }
        let refusals = &mut document.components.get_or_insert_default().responses;
        for (path, mut item) in api.paths.paths {
            for (method, operation) in operations_of(&mut item) {
                complete(operation, method, &path);
                share_refusals(operation, refusals);
            }
            document.paths.paths.insert(format!("{BASE}{path}"), item);
        }
    }
}

/// What is handed in refuses fields that it does not know. Where an answer is that and more, the rest would be refused with them: there
/// the parts stand without that rule.
fn open_parts(schemas: &mut BTreeMap<String, RefOr<Schema>>) {
    let known = schemas.clone();
    for schema in schemas.values_mut() {
        let RefOr::T(Schema::AllOf(all)) = schema else { continue };
        for part in &mut all.items {
            let RefOr::Ref(to) = &*part else { continue };
            let name = to.ref_location.trim_start_matches("#/components/schemas/");
            if let Some(RefOr::T(Schema::Object(closed))) = known.get(name)
                && closed.additional_properties.is_some()
            {
                let mut open = closed.clone();
                open.additional_properties = None;
                *part = RefOr::T(Schema::Object(open));
            }
        }
    }
}

fn operations_of(item: &mut PathItem) -> impl Iterator<Item = (&'static str, &mut Operation)> {
    let PathItem { get, put, post, delete, .. } = item;
    [("get", get), ("put", put), ("post", post), ("delete", delete)]
        .into_iter()
        .filter_map(|(method, operation)| operation.as_mut().map(|operation| (method, operation)))
}

fn parameters_of(operation: &Operation) -> impl Iterator<Item = &Parameter> {
    operation.parameters.iter().flatten().filter_map(|it| match it {
        RefOr::T(parameter) => Some(parameter),
        RefOr::Ref(_) => None,
    })
}

fn complete(operation: &mut Operation, method: &str, path: &str) {
    let named = |operation: &Operation, name: &str| parameters_of(operation).any(|it| it.name == name);
    if path.contains("{id}") && !named(operation, "id") {
        let uuid =
            ObjectBuilder::new().schema_type(Type::String).format(Some(SchemaFormat::KnownFormat(KnownFormat::Uuid)));
        let id = ParameterBuilder::new().name("id").parameter_in(ParameterIn::Path).required(Required::True);
        operation.parameters.get_or_insert_default().insert(0, RefOr::T(id.schema(Some(uuid)).build()));
    }
    let versioned = named(operation, "If-Match");
    let sent = operation.request_body.is_some();
    let json = match &operation.request_body {
        Some(RefOr::T(body)) => body.content.contains_key("application/json"),
        _ => false,
    };
    let open = OPEN.contains(&(method, path));
    let mut refusals = vec![400, 503];
    refusals.extend(if open { [].as_slice() } else { &[401, 403] });
    refusals.extend(if open && method != "get" { [403].as_slice() } else { &[] });
    refusals.extend(if path.contains('{') { [404].as_slice() } else { &[] });
    refusals.extend(if sent { [408, 413, 422].as_slice() } else { &[] });
    refusals.extend(if json { [415].as_slice() } else { &[] });
    refusals.extend(if versioned { [412, 422, 428].as_slice() } else { &[] });
    let Responses { responses, .. } = &mut operation.responses;
    for status in refusals {
        responses.entry(status.to_string()).or_insert_with(|| RefOr::T(refusal()));
    }
    for (status, response) in responses.iter_mut() {
        let RefOr::T(response) = response else { continue };
        let reason = || status.parse().ok().and_then(Status::from_code).map(|it| it.reason_lossy().to_owned());
        if response.description.is_empty() {
            response.description = reason().unwrap_or_default();
        }
        as_problem(response);
    }
    // Statuses in their order, whoever named them.
    let sorted: BTreeMap<String, RefOr<Response>> = std::mem::take(responses).into_iter().collect();
    responses.extend(sorted);
}

const PROBLEM: &str = "#/components/schemas/Problem";

fn refusal() -> Response {
    let content = Content::new(Some(RefOr::Ref(Ref::new(PROBLEM))));
    ResponseBuilder::new().content("application/problem+json", content).build()
}

/// Problems have a media type of their own.
fn as_problem(response: &mut Response) {
    let is_problem = |content: &RefOr<Content>| match content {
        RefOr::T(content) => matches!(&content.schema, Some(RefOr::Ref(to)) if to.ref_location == PROBLEM),
        RefOr::Ref(_) => false,
    };
    if response.content.get("application/json").is_some_and(is_problem)
        && let Some(content) = response.content.swap_remove("application/json")
    {
        response.content.insert("application/problem+json".to_owned(), content);
    }
}

/// Refusals stand once in the document: hundreds of them differ in nothing but their status.
fn share_refusals(operation: &mut Operation, shared: &mut BTreeMap<String, RefOr<Response>>) {
    for response in operation.responses.responses.values_mut() {
        let RefOr::T(known) = response else { continue };
        let plain = ResponseBuilder::from(refusal()).description(known.description.clone()).build();
        if *known == plain {
            let name = known.description.replace(' ', "");
            let to = RefOr::Ref(Ref::from_response_name(&name));
            shared.insert(name, std::mem::replace(response, to));
        }
    }
}

pub(crate) fn document() -> utoipa::openapi::OpenApi {
    Document::openapi()
}

/// The document, served by itself.
#[get("/api/openapi.json")]
fn published() -> Json<utoipa::openapi::OpenApi> {
    Json(document())
}

pub(crate) fn routes() -> Vec<Route> {
    routes![published]
}

fn times(parameter: &Parameter) -> Times {
    match &parameter.schema {
        Some(RefOr::T(Schema::Array(_))) => Times::Any,
        _ => Times::Once,
    }
}

/// The parameters that each operation reads from the query.
pub(crate) fn parameters() -> Parameters {
    let mut found: HashMap<(String, String), HashMap<String, Times>> = HashMap::new();
    for (path, mut item) in document().paths.paths {
        let route = path.replace('{', "<").replace('}', ">");
        for (method, operation) in operations_of(&mut item) {
            let queries = parameters_of(operation).filter(|it| it.parameter_in == ParameterIn::Query);
            found.insert(
                (method.to_uppercase(), route.clone()),
                queries.map(|it| (it.name.clone(), times(it))).collect(),
            );
        }
    }
    Parameters(found)
}

/// The document as pretty JSON.
///
/// # Errors
/// Never in practice; serialisation is fallible by type.
pub fn openapi_json() -> Result<String, serde_json::Error> {
    document().to_pretty_json()
}
