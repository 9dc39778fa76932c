//! Elements in elements, named, repeated and referred to: as an SVG, as InkML, as the stack of an OpenRaster file.
#![no_main]

use eddymist_formats::{drawings, inkml, svg_paths, Limits, LIMITS};
use libfuzzer_sys::arbitrary::{self, Arbitrary};

#[derive(Arbitrary, Debug)]
enum Node {
    Open { kind: u8, id: u8, refers: u8 },
    Close,
    Leaf { kind: u8, id: u8, refers: u8, number: i16 },
    Many { kind: u8, times: u8 },
}

const GROUPS: [&str; 8] = ["g", "mask", "clipPath", "pattern", "symbol", "traceGroup", "marker", "filter"];
const LEAVES: [&str; 8] = ["use", "path", "trace", "traceFormat", "image", "annotation", "feGaussianBlur", "text"];

libfuzzer_sys::fuzz_target!(|nodes: Vec<Node>| {
    let (mut body, mut open) = (String::new(), Vec::new());
    let leaf = |kind: u8, id: u8, refers: u8, number: i16| {
        let (name, n) = (LEAVES[usize::from(kind % 8)], f64::from(number) / 16.0);
        let refers = refers % 16;
        format!("<{name} id=\"n{}\" href=\"#n{refers}\" d=\"M{n} 1L9 {n}C1 2 3 4 5 {n}\" fill=\"url(#n{refers})\" mask=\"url(#n{refers})\" stdDeviation=\"{n}\" type=\"zoom\">{n} {n}</{name}>", id % 16)
    };
    for n in nodes.iter().take(300) {
        match n {
            Node::Open { kind, id, refers } => {
                let name = GROUPS[usize::from(kind % 8)];
                body += &format!("<{name} id=\"n{}\" opacity=\"0.{}\" clip-path=\"url(#n{})\">", id % 16, refers % 10, refers % 16);
                open.push(name);
            }
            Node::Close => body += &open.pop().map_or(String::new(), |name| format!("</{name}>")),
            Node::Leaf { kind, id, refers, number } => body += &leaf(*kind, *id, *refers, *number),
            Node::Many { kind, times } => body += &leaf(*kind, 3, 5, 7).repeat(usize::from(*times)),
        }
    }
    body.extend(open.into_iter().rev().map(|name| format!("</{name}>")));
    let small = Limits { layer_pixels: 400_000, pixels: 400_000, elements: 20_000, ..LIMITS };
    let svg = format!("<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"90\" height=\"60\">{body}</svg>");
    let _ = drawings::read(svg.as_bytes(), true, &small);
    let _ = svg_paths::read(&svg, &small);
    let _ = inkml::read(&format!("<ink>{body}</ink>"), &small);
});
