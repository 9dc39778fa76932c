//! Elements of an InkML file: by their name without its space, by their id, and with all their text.

use std::borrow::Cow;

use roxmltree::Node;

use crate::ReadError;

pub(super) fn bad(problem: String) -> ReadError {
    ReadError::InkMl(problem)
}

pub(super) trait LocalName {
    fn has_tag_name_local(&self, name: &str) -> bool;
    fn own_id(&self) -> Option<&str>;
}

impl LocalName for Node<'_, '_> {
    fn has_tag_name_local(&self, name: &str) -> bool {
        self.is_element() && self.tag_name().name() == name
    }
    fn own_id(&self) -> Option<&str> {
        self.attribute(("http://www.w3.org/XML/1998/namespace", "id")).or_else(|| self.attribute("id"))
    }
}

/// The text of an element, whatever comments and children stand in it.
pub(super) fn whole_text<'a>(node: Node<'a, '_>) -> Cow<'a, str> {
    let mut parts = node.descendants().filter(Node::is_text).filter_map(|n| n.text());
    let first = parts.next().unwrap_or("");
    match parts.next() {
        None => first.into(),
        Some(second) => [first, second].into_iter().chain(parts).collect::<String>().into(),
    }
}
