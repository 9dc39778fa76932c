//! XML that is safe to be read: how deep its elements lie within one another, how many there are, and what it repeats by reference,
//! asked before anything is built from it.

use std::collections::HashMap;

use roxmltree::{Document, Node, NodeId, ParsingOptions};

use crate::{Limits, ReadError, limits::told};

/// What entities may come to, once put in, bytes.
const ENTITY_BYTES: usize = 32 << 20;

/// Asks of a text, before a tree is made of it, how deep its elements lie. A text that is not well-formed is left to the parser.
pub(crate) fn checked(text: &str, depth: usize, limits: &Limits) -> Result<(), String> {
    if text.len() as u64 > limits.bytes {
        return Err(format!("it has {} MB; up to {} are read", text.len() >> 20, limits.bytes >> 20));
    }
    let (mut rest, mut level, mut elements) = (text, 0usize, 0u64);
    while let Some(at) = rest.find('<') {
        rest = &rest[at..];
        let passed = |end: &str| rest.find(end).map(|i| i + end.len());
        let end = if rest.starts_with("<!--") {
            passed("-->")
        } else if rest.starts_with("<![CDATA[") {
            passed("]]>")
        } else if rest.starts_with("<?") {
            passed("?>")
        } else if rest.starts_with("<!") {
            doctype(rest)?
        } else if rest.starts_with("</") {
            level = level.saturating_sub(1);
            passed(">")
        } else {
            elements += 1;
            let end = tag_end(rest);
            if !end.is_some_and(|e| rest[..e].ends_with("/>")) {
                level += 1;
            }
            end
        };
        if level > depth {
            return Err(format!("its elements lie in one another more than {depth} deep"));
        }
        if elements > limits.elements {
            return Err(format!("it has more than {} thousand elements; split it", limits.elements / 1000));
        }
        let Some(end) = end else { break };
        rest = &rest[end..];
    }
    Ok(())
}

/// Where a tag ends: the first `>` that stands in no quotes.
fn tag_end(tag: &str) -> Option<usize> {
    let mut quote = None;
    for (i, b) in tag.bytes().enumerate() {
        match (quote, b) {
            (None, b'"' | b'\'') => quote = Some(b),
            (Some(q), b) if q == b => quote = None,
            (None, b'>') => return Some(i + 1),
            _ => {}
        }
    }
    None
}

/// Where the declaration of a document's type ends; refused where what its entities come to is too much.
fn doctype(text: &str) -> Result<Option<usize>, String> {
    let (open, close) = (text.find('['), text.find('>'));
    let end = match (open, close) {
        (Some(o), Some(c)) if o < c => {
            text[o..].find("]>").or_else(|| text[o..].find(']').filter(|b| text[o + b + 1..].trim_start().starts_with('>'))).map(|b| o + b + 1)
        }
        (_, c) => c,
    };
    let Some(end) = end else { return Ok(None) };
    let (inside, after) = text.split_at(end);
    if inside.contains("<!ENTITY") {
        // What is put in once is at most the declaration; entities in entities are followed up to 255 times.
        let nested = if inside.matches('&').count() > inside.matches("&#").count() { 255 } else { 1 };
        let referred = after.matches('&').count();
        if inside.len().saturating_mul(nested).saturating_mul(referred) > ENTITY_BYTES {
            return Err("its entities come to too much text; write them out".into());
        }
    }
    Ok(Some(end))
}

/// How a tree is made of a file: declarations of its type, which many programs write, are read.
pub(crate) fn options<'a>() -> ParsingOptions<'a> {
    ParsingOptions { allow_dtd: true, ..ParsingOptions::default() }
}

/// A tree of an SVG that has been asked first; what it draws again by reference is counted again.
pub(crate) fn svg<'a>(text: &'a str, limits: &Limits) -> Result<Document<'a>, ReadError> {
    let bad = |e: String| ReadError::Svg(e);
    checked(text, limits.depth, limits).map_err(bad)?;
    let document = Document::parse_with_options(text, options()).map_err(|e| bad(format!("not well-formed XML: {}", told(e))))?;
    let drawn = Repeats::new(&document).drawn(document.root_element());
    if drawn > limits.elements {
        return Err(bad(format!(
            "what it repeats by reference comes to more than {} thousand elements: draw less of it again and again",
            limits.elements / 1000
        )));
    }
    Ok(document)
}

/// How many elements are drawn of each, references followed.
struct Repeats<'a, 'input> {
    by_id: HashMap<&'a str, Node<'a, 'input>>,
    /// None while a node is being counted: what refers to itself is not drawn again.
    known: HashMap<NodeId, Option<u64>>,
}

impl<'a, 'input> Repeats<'a, 'input> {
    fn new(document: &'a Document<'input>) -> Self {
        let by_id = document.descendants().filter_map(|n| Some((n.attribute("id")?, n))).collect();
        Self { by_id, known: HashMap::new() }
    }

    /// No deeper than the elements lie in one another, and one level more for each reference that leads to another: counted with a
    /// stack of its own.
    fn drawn(&mut self, root: Node<'a, 'input>) -> u64 {
        let mut stack = vec![root];
        while let Some(node) = stack.last().copied() {
            match self.known.get(&node.id()) {
                Some(Some(_)) => {
                    stack.pop();
                }
                None => {
                    self.known.insert(node.id(), None);
                    stack.extend(self.next(node).into_iter().filter(|n| !self.known.contains_key(&n.id())));
                }
                Some(None) => {
                    let below = self.next(node).iter().map(|n| self.known.get(&n.id()).copied().flatten().unwrap_or(0)).fold(1u64, u64::saturating_add);
                    self.known.insert(node.id(), Some(below));
                    stack.pop();
                }
            }
        }
        self.known.get(&root.id()).copied().flatten().unwrap_or(0)
    }

    /// What is drawn with a node: what lies in it, and what it refers to.
    fn next(&self, node: Node<'a, 'input>) -> Vec<Node<'a, 'input>> {
        let mut out: Vec<_> = node.children().filter(Node::is_element).collect();
        let refers = |text: &str| text.trim().strip_prefix('#').and_then(|id| self.by_id.get(id).copied());
        if node.tag_name().name() == "use" {
            out.extend(node.attributes().filter(|a| a.name() == "href").filter_map(|a| refers(a.value())));
        }
        // Masks, clips, patterns and filters that are named by `url(#…)`.
        for a in node.attributes() {
            out.extend(a.value().split("url(").skip(1).filter_map(|u| refers(u.split(')').next()?.trim_matches(['"', '\'', ' ']))));
        }
        out
    }
}
