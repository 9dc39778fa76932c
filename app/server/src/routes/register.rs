//! Routes and their description, registered together: what a route takes and gives is its Rust type.

use axum::{
    Extension, Router,
    extract::DefaultBodyLimit,
    handler::Handler,
    routing::{MethodFilter, MethodRouter, on},
};
use schemars::{JsonSchema, Schema, SchemaGenerator, generate::SchemaSettings, schema_for};
use serde_json::{Map, Value, json};

use crate::{address::GuessLimit, plain::MostBytes, state::State};

/// A document: a guide, a pen's marks.
pub const DOCUMENT_BYTES: usize = 1 << 20;
/// A brush, a warm-up, a manifest, a drawn note.
pub const BRUSH_BYTES: usize = 16 << 20;
/// A trial page, a library.
pub const PAGE_BYTES: usize = 64 << 20;
/// A picture, or all of one request's pictures together.
pub const UPLOAD_BYTES: usize = 256 << 20;
/// An archive of drawings, or all files of one such request together.
pub const ARCHIVE_BYTES: usize = 2 << 30;

/// Routes with their description.
pub struct Api {
    pub router: Router<State>,
    paths: Map<String, Value>,
    generator: SchemaGenerator,
    /// What the next route takes at most, where that is more than little.
    most: Option<usize>,
    /// The next route needs no sign-in.
    open: bool,
    /// Guesses on the open routes are slowed down, all of them together.
    guesses: GuessLimit,
}

/// What a route gives.
#[derive(Clone, Copy)]
enum Gives<'a> {
    Json(&'a Schema),
    /// A new thing, with where it is.
    Made(&'a Schema),
    /// Bytes of one of these kinds.
    Bytes(&'a [&'a str]),
}

impl Api {
    pub fn new() -> Self {
        let settings = SchemaSettings::draft2020_12().with(|s| s.definitions_path = "/components/schemas".into());
        Self { router: Router::new(), paths: Map::new(), generator: settings.into_generator(), most: None, open: false, guesses: GuessLimit::default() }
    }

    /// The next route's body may have so many bytes.
    pub fn up_to(self, bytes: usize) -> Self {
        Self { most: Some(bytes), ..self }
    }

    /// The next route needs no sign-in; whoever guesses on it is slowed down.
    pub fn open(self) -> Self {
        Self { open: true, ..self }
    }

    /// A route that takes nothing but its path.
    pub fn read<G: JsonSchema, H: Handler<T, State>, T: 'static>(self, path: &str, says: &str, handler: H) -> Self {
        self.act::<G, H, T>("get", path, says, handler)
    }

    /// A route that gives a file or a stream of these kinds.
    pub fn file<H: Handler<T, State>, T: 'static>(mut self, path: &str, says: &str, kinds: &[&str], handler: H) -> Self {
        let (full, filter) = self.described("get", path, says, None, Gives::Bytes(kinds));
        self.route(&full, on(filter, handler))
    }

    /// A route that takes JSON and gives a file of these kinds.
    pub fn file_of<B: JsonSchema, H: Handler<T, State>, T: 'static>(mut self, path: &str, says: &str, kinds: &[&str], handler: H) -> Self {
        let body = json_body(&self.generator.subschema_for::<B>());
        let (full, filter) = self.described("post", path, says, Some(body), Gives::Bytes(kinds));
        self.route(&full, on(filter, handler))
    }

    /// A route that is asked by the query, all of whose fields may be left out.
    pub fn ask<Q: JsonSchema, G: JsonSchema, H: Handler<T, State>, T: 'static>(mut self, path: &str, says: &str, handler: H) -> Self {
        self = self.read::<G, H, T>(path, says, handler);
        self.asked_by::<Q>("get", path);
        self
    }

    /// A file that is asked for by the query.
    pub fn ask_file<Q: JsonSchema, H: Handler<T, State>, T: 'static>(mut self, path: &str, says: &str, kinds: &[&str], handler: H) -> Self {
        self = self.file(path, says, kinds, handler);
        self.asked_by::<Q>("get", path);
        self
    }

    /// A removal that is asked by the query.
    pub fn ask_removal<Q: JsonSchema, H: Handler<T, State>, T: 'static>(mut self, path: &str, says: &str, handler: H) -> Self {
        self = self.act::<(), H, T>("delete", path, says, handler);
        self.asked_by::<Q>("delete", path);
        self
    }

    /// A route that takes a JSON body.
    pub fn write<B: JsonSchema, G: JsonSchema, H: Handler<T, State>, T: 'static>(mut self, verb: &str, path: &str, says: &str, handler: H) -> Self {
        let body = json_body(&self.generator.subschema_for::<B>());
        let gives = self.generator.subschema_for::<G>();
        let (full, filter) = self.described(verb, path, says, Some(body), Gives::Json(&gives));
        self.route(&full, on(filter, handler))
    }

    /// A route that makes something of a JSON body, and says where it is.
    pub fn make<B: JsonSchema, G: JsonSchema, H: Handler<T, State>, T: 'static>(mut self, path: &str, says: &str, handler: H) -> Self {
        let body = json_body(&self.generator.subschema_for::<B>());
        let gives = self.generator.subschema_for::<G>();
        let (full, filter) = self.described("post", path, says, Some(body), Gives::Made(&gives));
        self.route(&full, on(filter, handler))
    }

    /// A route without a body.
    pub fn act<G: JsonSchema, H: Handler<T, State>, T: 'static>(mut self, verb: &str, path: &str, says: &str, handler: H) -> Self {
        let gives = self.generator.subschema_for::<G>();
        let (full, filter) = self.described(verb, path, says, None, Gives::Json(&gives));
        self.route(&full, on(filter, handler))
    }

    /// A route that takes files.
    pub fn upload<G: JsonSchema, H: Handler<T, State>, T: 'static>(self, path: &str, says: &str, handler: H) -> Self {
        self.upload_of::<G, H, T>(UPLOAD_BYTES, path, says, handler)
    }

    /// A route that takes files and archives of them, laid aside as they come.
    pub fn upload_archives<G: JsonSchema, H: Handler<T, State>, T: 'static>(self, path: &str, says: &str, handler: H) -> Self {
        self.upload_of::<G, H, T>(ARCHIVE_BYTES, path, says, handler)
    }

    fn upload_of<G: JsonSchema, H: Handler<T, State>, T: 'static>(mut self, most: usize, path: &str, says: &str, handler: H) -> Self {
        let gives = self.generator.subschema_for::<G>();
        let (full, filter) = self.described("post", path, says, Some(files_body()), Gives::Json(&gives));
        self.route(&full, on(filter, handler).layer(DefaultBodyLimit::max(most)))
    }

    /// Little stands in what is compiled once for every route; the rest is here.
    fn route(mut self, full: &str, mut method: MethodRouter<State>) -> Self {
        if let Some(most) = self.most.take() {
            method = method.layer(Extension(MostBytes(most)));
        }
        if std::mem::take(&mut self.open) {
            method = method.layer(self.guesses.layer());
        }
        self.router = self.router.route(full, method);
        self
    }

    /// The fields of a query.
    fn asked_by<Q: JsonSchema>(&mut self, verb: &str, path: &str) {
        let asked = schema_for!(Q).to_value();
        let fields: Vec<Value> = asked["properties"]
            .as_object()
            .into_iter()
            .flatten()
            .map(|(name, s)| {
                let schema = self.generator.root_schema_for::<Q>().to_value()["properties"][name].clone();
                json!({"name": name, "in": "query", "required": false, "description": s["description"].as_str().unwrap_or(name), "schema": inlined(schema, &asked)})
            })
            .collect();
        if let Some(parameters) = self.paths[&format!("/api/v1{path}")][verb]["parameters"].as_array_mut() {
            parameters.extend(fields);
        }
    }

    /// Writes a route down; its whole path, and the method that it is asked by.
    fn described(&mut self, verb: &str, path: &str, says: &str, body: Option<Value>, gives: Gives<'_>) -> (String, MethodFilter) {
        let full = format!("/api/v1{path}");
        let parameters: Vec<Value> = path
            .split('/')
            .filter_map(|p| p.strip_prefix('{')?.strip_suffix('}'))
            .map(|name| json!({"name": name, "in": "path", "required": true, "schema": path_schema(name, path)}))
            .collect();
        let problem = self.generator.subschema_for::<crate::problem::Problem>();
        let (status, answer) = match gives {
            Gives::Json(schema) => ("200", json!({"description": "Done", "content": {"application/json": {"schema": schema}}})),
            Gives::Made(schema) => (
                "201",
                json!({
                    "description": "Made",
                    "headers": {"Location": {"description": "Where it is", "schema": {"type": "string"}}},
                    "content": {"application/json": {"schema": schema}},
                }),
            ),
            Gives::Bytes(kinds) => {
                let content: Map<String, Value> = kinds.iter().map(|k| ((*k).to_string(), json!({"schema": bytes_schema(k)}))).collect();
                ("200", json!({"description": "The file", "content": content}))
            }
        };
        let mut operation = json!({
            "summary": says,
            "parameters": parameters,
            "responses": {
                status: answer,
                "default": {"description": "What is wrong and what to do", "content": {"application/problem+json": {"schema": problem}}},
            },
        });
        if let Some(b) = body {
            operation["requestBody"] = b;
        }
        if self.open {
            operation["security"] = json!([]);
        }
        if let Value::Object(methods) = self.paths.entry(full.clone()).or_insert_with(|| json!({})) {
            methods.insert(verb.into(), operation);
        }
        let filter = match verb {
            "get" => MethodFilter::GET,
            "put" => MethodFilter::PUT,
            "delete" => MethodFilter::DELETE,
            _ => MethodFilter::POST,
        };
        (full, filter)
    }

    /// The description.
    pub fn describe(&mut self) -> Value {
        json!({
            "openapi": "3.1.0",
            "info": {"title": "Eddymist", "version": env!("CARGO_PKG_VERSION"), "license": {"name": "MIT OR Apache-2.0"}},
            "security": [{"session": []}],
            "paths": self.paths,
            "components": {
                "schemas": self.generator.take_definitions(true),
                "securitySchemes": {"session": {
                    "type": "apiKey", "in": "cookie", "name": "eddymist",
                    "description": "Set by signing in (POST /api/v1/session); called __Host-eddymist where the server has an address with https",
                }},
            },
        })
    }
}

/// A query's field without a reference to the document that it came from.
fn inlined(schema: Value, whole: &Value) -> Value {
    match schema["$ref"].as_str().and_then(|r| r.rsplit('/').next()) {
        Some(name) => whole["$defs"][name].clone(),
        None => match schema["anyOf"].as_array() {
            Some(any) => json!({"anyOf": any.iter().map(|s| inlined(s.clone(), whole)).collect::<Vec<_>>()}),
            None => schema,
        },
    }
}

/// What a part of a path may be.
fn path_schema(name: &str, path: &str) -> Value {
    match name {
        "sha" => json!({"type": "string", "pattern": "^[0-9a-f]{64}$"}),
        "version" => json!({"type": "integer", "format": "int32"}),
        "x" | "y" | "normal" => json!({"type": "number"}),
        "paper" => json!({"type": "string", "enum": ["a4", "letter"]}),
        "pen" if path.contains("/stand-ins/") => json!({"type": "string"}),
        "kind" if path.contains("/archive/") || path.contains("/removal/") => {
            json!({"type": "string", "enum": ["pens", "profiles", "brushes", "guides", "deliveries", "trials"]})
        }
        "secret" | "kind" | "what" | "name" | "role" | "brushes" | "artist" => json!({"type": "string"}),
        _ => json!({"type": "string", "format": "uuid"}),
    }
}

fn bytes_schema(kind: &str) -> Value {
    if kind.starts_with("text/") || kind.ends_with("json") || kind.ends_with("xml") { json!({"type": "string"}) } else { json!({"contentMediaType": kind}) }
}

fn json_body(schema: &Schema) -> Value {
    json!({"required": true, "content": {"application/json": {"schema": schema}}})
}

fn files_body() -> Value {
    let file = json!({"type": "string", "contentMediaType": "application/octet-stream"});
    json!({"required": true, "content": {"multipart/form-data": {"schema": {"type": "object", "properties": {"file": file, "dpi": {"type": "string"}}}}}})
}
