//! Routes and their description, registered together: what a route takes and gives is its Rust type.

use axum::{
    Router,
    extract::DefaultBodyLimit,
    handler::Handler,
    routing::{MethodFilter, on},
};
use schemars::{JsonSchema, Schema, SchemaGenerator, generate::SchemaSettings, schema_for};
use serde_json::{Map, Value, json};

use crate::state::State;

/// An archive of drawings, or all files of one such request together.
pub const ARCHIVE_BYTES: usize = 2 << 30;

/// Routes with their description.
pub struct Api {
    pub router: Router<State>,
    paths: Map<String, Value>,
    generator: SchemaGenerator,
}

impl Api {
    pub fn new() -> Self {
        let settings = SchemaSettings::draft2020_12().with(|s| s.definitions_path = "/components/schemas".into());
        Self { router: Router::new(), paths: Map::new(), generator: settings.into_generator() }
    }

    /// A route that takes nothing but its path.
    pub fn read<G: JsonSchema, H: Handler<T, State>, T: 'static>(self, path: &str, says: &str, handler: H) -> Self {
        self.add::<G, H, T>("get", path, says, None, handler)
    }

    /// A route that is asked by the query, all of whose fields may be left out.
    pub fn ask<Q: JsonSchema, G: JsonSchema, H: Handler<T, State>, T: 'static>(mut self, path: &str, says: &str, handler: H) -> Self {
        let asked = schema_for!(Q).to_value();
        self = self.add::<G, H, T>("get", path, says, None, handler);
        self.asked_by(path, &asked);
        self
    }

    /// A route that takes a JSON body.
    pub fn write<B: JsonSchema, G: JsonSchema, H: Handler<T, State>, T: 'static>(mut self, verb: &str, path: &str, says: &str, handler: H) -> Self {
        let body = self.generator.subschema_for::<B>();
        self.add::<G, H, T>(verb, path, says, Some(json_body(&body)), handler)
    }

    /// A route without a body that changes something.
    pub fn act<G: JsonSchema, H: Handler<T, State>, T: 'static>(self, verb: &str, path: &str, says: &str, handler: H) -> Self {
        self.add::<G, H, T>(verb, path, says, None, handler)
    }

    /// A route that takes files.
    pub fn upload<G: JsonSchema, H: Handler<T, State>, T: 'static>(self, path: &str, says: &str, handler: H) -> Self {
        self.add::<G, H, T>("post", path, says, Some(files_body()), handler)
    }

    /// A route that takes files and archives of them, laid aside as they come.
    pub fn upload_archives<G: JsonSchema, H: Handler<T, State>, T: 'static>(mut self, path: &str, says: &str, handler: H) -> Self {
        let gives = self.generator.subschema_for::<G>();
        let (full, filter) = self.described("post", path, says, Some(files_body()), &gives);
        self.router = self.router.route(&full, on(filter, handler).layer(DefaultBodyLimit::max(ARCHIVE_BYTES)));
        self
    }

    /// Little stands here, since it is compiled once for every route.
    fn add<G: JsonSchema, H: Handler<T, State>, T: 'static>(mut self, verb: &str, path: &str, says: &str, body: Option<Value>, handler: H) -> Self {
        let gives = self.generator.subschema_for::<G>();
        let (full, filter) = self.described(verb, path, says, body, &gives);
        self.router = self.router.route(&full, on(filter, handler));
        self
    }

    /// The fields of a query.
    fn asked_by(&mut self, path: &str, asked: &Value) {
        let fields: Vec<Value> = asked["properties"]
            .as_object()
            .into_iter()
            .flatten()
            .map(|(name, s)| json!({"name": name, "in": "query", "required": false, "description": s["description"].as_str().unwrap_or(name), "schema": {"type": "string"}}))
            .collect();
        if let Some(parameters) = self.paths[&format!("/api/v1{path}")]["get"]["parameters"].as_array_mut() {
            parameters.extend(fields);
        }
    }

    /// Writes a route down; its whole path, and the method that it is asked by.
    fn described(&mut self, verb: &str, path: &str, says: &str, body: Option<Value>, gives: &Schema) -> (String, MethodFilter) {
        let full = format!("/api/v1{path}");
        let parameters: Vec<Value> = path
            .split('/')
            .filter_map(|p| p.strip_prefix('{')?.strip_suffix('}'))
            .map(|name| json!({"name": name, "in": "path", "required": true, "schema": {"type": "string"}}))
            .collect();
        let problem = self.generator.subschema_for::<crate::problem::Problem>();
        let mut operation = json!({
            "summary": says,
            "parameters": parameters,
            "responses": {
                "200": {"description": "Done", "content": {"application/json": {"schema": gives}}},
                "default": {"description": "What is wrong and what to do", "content": {"application/problem+json": {"schema": problem}}},
            },
        });
        if let Some(b) = body {
            operation["requestBody"] = b;
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
            "paths": self.paths,
            "components": {"schemas": self.generator.take_definitions(true)},
        })
    }
}

fn json_body(schema: &Schema) -> Value {
    json!({"required": true, "content": {"application/json": {"schema": schema}}})
}

fn files_body() -> Value {
    let file = json!({"type": "string", "contentMediaType": "application/octet-stream"});
    json!({"required": true, "content": {"multipart/form-data": {"schema": {"type": "object", "properties": {"file": file, "dpi": {"type": "string"}}}}}})
}
