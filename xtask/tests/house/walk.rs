//! Which file imports which: the `use` trees and paths of every crate, walked with syn.
//!
//! What: [`read`] gives the files of one crate and the arrows between them; [`circles`] the groups of files that import one
//! another, also by way of a third; [`crates_of`] the crates of the project that a crate's files name.
//! How: a path is followed from module to module as the compiler does it, through `pub use`, to the file that the named
//! thing is written in; a parent that only declares or hands on its children does not import them.
//! Limits: `#[cfg(test)]` is passed over; names that come out of macros, and methods, are not seen.
//! Source: R. Tarjan, SIAM J. Comput. 1 (1972), for the groups (petgraph's).

use std::{
    collections::{BTreeMap, BTreeSet},
    fs,
    path::{Path, PathBuf},
};

use petgraph::graphmap::DiGraphMap;
use syn::{Item, UseTree, visit::Visit};

/// A module's path from the crate's root: `["drawing", "masks"]`.
type Module = Vec<String>;

/// What one module declares, and where the names that it brings in come from.
#[derive(Default)]
struct Scope {
    file: usize,
    children: BTreeSet<String>,
    items: BTreeSet<String>,
    /// Names brought in by `use`, each as an absolute path; the flag says that it is handed on (`pub use`).
    names: BTreeMap<String, (Module, bool)>,
    globs: Vec<(Module, bool)>,
}

/// One crate: its files, the arrows between them, and the project's crates that they name.
pub struct Crate {
    pub files: Vec<PathBuf>,
    pub arrows: BTreeSet<(usize, usize)>,
    pub crates: BTreeSet<String>,
}

/// Reads the crate under `src`; an error names the file that is missing or does not parse.
pub fn read(src: &Path) -> Result<Crate, String> {
    let root = ["lib.rs", "main.rs"].map(|f| src.join(f)).into_iter().find(|f| f.exists()).ok_or(format!("{}: no lib.rs or main.rs", src.display()))?;
    let mut tree = Tree::default();
    tree.file(&root, src, vec![])?;
    Ok(tree.arrows())
}

/// Groups of files that import one another, each in the order of their paths.
pub fn circles(it: &Crate) -> Vec<Vec<&Path>> {
    let graph = DiGraphMap::<usize, ()>::from_edges(it.arrows.iter().copied());
    let mut out: Vec<Vec<&Path>> = petgraph::algo::tarjan_scc(&graph)
        .into_iter()
        .filter(|group| group.len() > 1)
        .map(|group| {
            let mut paths: Vec<&Path> = group.into_iter().map(|f| it.files[f].as_path()).collect();
            paths.sort();
            paths
        })
        .collect();
    out.sort();
    out
}

#[derive(Default)]
struct Tree {
    files: Vec<PathBuf>,
    parsed: Vec<(Module, Vec<Item>)>,
    scopes: BTreeMap<Module, Scope>,
}

impl Tree {
    fn file(&mut self, path: &Path, dir: &Path, module: Module) -> Result<(), String> {
        let text = fs::read_to_string(path).map_err(|e| format!("{}: {e}", path.display()))?;
        let parsed = syn::parse_file(&text).map_err(|e| format!("{}: {e}", path.display()))?;
        self.files.push(path.to_path_buf());
        let file = self.files.len() - 1;
        self.module(&parsed.items, file, dir, &module)?;
        self.parsed.push((module, parsed.items));
        Ok(())
    }

    fn module(&mut self, items: &[Item], file: usize, dir: &Path, module: &Module) -> Result<(), String> {
        let mut scope = Scope { file, ..Scope::default() };
        for item in items {
            if let Item::Mod(m) = item
                && !is_test(&m.attrs)
            {
                let name = m.ident.to_string();
                let inner = joined(module, &name);
                scope.children.insert(name.clone());
                match &m.content {
                    Some((_, items)) => self.module(items, file, &dir.join(&name), &inner)?,
                    None => {
                        let (flat, folder) = (dir.join(format!("{name}.rs")), dir.join(&name));
                        let path = if flat.exists() { flat } else { folder.join("mod.rs") };
                        self.file(&path, &folder, inner)?;
                    }
                }
            } else if let Some(name) = named(item) {
                scope.items.insert(name);
            }
        }
        for item in items {
            if let Item::Use(u) = item
                && !is_test(&u.attrs)
            {
                let handed_on = !matches!(u.vis, syn::Visibility::Inherited);
                walk(&u.tree, &mut vec![], &mut |path, name| {
                    let path = absolute(path, module, &scope.children);
                    match name {
                        Some(name) => drop(scope.names.insert(name, (path, handed_on))),
                        None => scope.globs.push((path, handed_on)),
                    }
                });
            }
        }
        self.scopes.insert(module.clone(), scope);
        Ok(())
    }

    /// The file that an absolute path leads to; none outside the crate.
    fn lands(&self, path: &[String], depth: usize) -> Option<usize> {
        let mut at: Module = vec![];
        for (i, segment) in path.iter().enumerate() {
            let scope = self.scopes.get(&at)?;
            let rest = &path[i + 1..];
            if scope.children.contains(segment) {
                at.push(segment.clone());
            } else if scope.items.contains(segment) || depth > 16 {
                return Some(scope.file);
            } else if let Some((to, _)) = scope.names.get(segment).filter(|n| n.1) {
                return self.lands(&[&to[..], rest].concat(), depth + 1);
            } else {
                let through = scope.globs.iter().filter(|g| g.1).find(|g| self.has(&g.0, segment));
                return match through {
                    Some((to, _)) => self.lands(&[&to[..], &path[i..]].concat(), depth + 1),
                    None => Some(scope.file),
                };
            }
        }
        // A module by itself: whatever is used of it is seen where it is used.
        None
    }

    fn has(&self, module: &Module, name: &str) -> bool {
        self.scopes.get(module).is_some_and(|s| s.items.contains(name) || s.children.contains(name) || s.names.contains_key(name))
    }

    fn arrows(self) -> Crate {
        let mut seen = Seen { tree: &self, module: vec![], arrows: BTreeSet::new(), crates: BTreeSet::new() };
        for (module, items) in &self.parsed {
            seen.module.clone_from(module);
            items.iter().for_each(|i| seen.visit_item(i));
        }
        let Seen { arrows, crates, .. } = seen;
        Crate { arrows, crates, files: self.files }
    }
}

struct Seen<'a> {
    tree: &'a Tree,
    module: Module,
    arrows: BTreeSet<(usize, usize)>,
    crates: BTreeSet<String>,
}

impl Seen<'_> {
    fn path(&mut self, segments: &[String]) {
        let scope = &self.tree.scopes[&self.module];
        let Some(first) = segments.first() else { return };
        if first.starts_with("eddymist_") {
            self.crates.insert(first.clone());
        }
        let full = match scope.names.get(first) {
            Some((to, _)) => [&to[..], &segments[1..]].concat(),
            None if scope.children.contains(first) || ["crate", "self", "super"].contains(&first.as_str()) => absolute(segments, &self.module, &scope.children),
            None => {
                // Perhaps from a glob.
                match scope.globs.iter().find(|g| self.tree.has(&g.0, first)) {
                    Some((to, _)) => [&to[..], segments].concat(),
                    None => return,
                }
            }
        };
        if let Some(to) = self.tree.lands(&full, 0).filter(|to| *to != scope.file && known(&full, self.tree)) {
            self.arrows.insert((scope.file, to));
        }
    }
}

/// Whether a path begins inside the crate: what comes from elsewhere names no module of ours first.
fn known(path: &[String], tree: &Tree) -> bool {
    let root = &tree.scopes[&vec![]];
    path.first().is_some_and(|f| root.children.contains(f) || root.items.contains(f) || root.names.get(f).is_some_and(|n| n.1))
}

impl<'a> Visit<'a> for Seen<'_> {
    fn visit_item(&mut self, item: &'a Item) {
        if !attributes(item).is_some_and(|a| is_test(a)) {
            syn::visit::visit_item(self, item);
        }
    }

    fn visit_item_mod(&mut self, m: &'a syn::ItemMod) {
        if m.content.is_some() {
            self.module.push(m.ident.to_string());
            syn::visit::visit_item_mod(self, m);
            self.module.pop();
        }
    }

    fn visit_item_use(&mut self, u: &'a syn::ItemUse) {
        // What is only handed on to others is no import of one's own.
        let handed_on = !matches!(u.vis, syn::Visibility::Inherited);
        let mut paths = vec![];
        walk(&u.tree, &mut vec![], &mut |path, _| paths.push(path.to_vec()));
        for path in paths {
            if path.first().is_some_and(|f| f.starts_with("eddymist_")) {
                self.crates.insert(path[0].clone());
            } else if !handed_on {
                self.path(&path);
            }
        }
    }

    fn visit_path(&mut self, p: &'a syn::Path) {
        let segments: Vec<String> = p.segments.iter().map(|s| s.ident.to_string()).collect();
        self.path(&segments);
        syn::visit::visit_path(self, p);
    }

    fn visit_macro(&mut self, m: &'a syn::Macro) {
        // Arguments of macros are token trees: paths that begin with `crate` or `super` are read out of them.
        let words: Vec<String> = m.tokens.to_string().replace("::", " :: ").split_whitespace().map(String::from).collect();
        for i in 0..words.len() {
            let mut segments = vec![words[i].clone()];
            let mut j = i;
            while words.get(j + 1).is_some_and(|w| w == "::") && words.get(j + 2).is_some() {
                segments.push(words[j + 2].clone());
                j += 2;
            }
            if segments.len() > 1 && (i == 0 || words[i - 1] != "::") {
                self.path(&segments);
            }
        }
        syn::visit::visit_macro(self, m);
    }
}

fn joined(module: &Module, name: &str) -> Module {
    let mut out = module.clone();
    out.push(name.to_string());
    out
}

/// A path as the module has it, from the crate's root.
fn absolute(path: &[String], module: &Module, children: &BTreeSet<String>) -> Module {
    let mut base = module.clone();
    let mut rest = path;
    match path.first().map(String::as_str) {
        Some("crate") => (base, rest) = (vec![], &path[1..]),
        Some("self") => rest = &path[1..],
        Some("super") => {
            while rest.first().is_some_and(|s| s == "super") {
                base.pop();
                rest = &rest[1..];
            }
        }
        Some(first) if children.contains(first) => {}
        _ => base = vec![],
    }
    [&base[..], rest].concat()
}

fn walk(tree: &UseTree, prefix: &mut Module, each: &mut impl FnMut(&[String], Option<String>)) {
    match tree {
        UseTree::Path(p) => {
            prefix.push(p.ident.to_string());
            walk(&p.tree, prefix, each);
            prefix.pop();
        }
        UseTree::Group(g) => g.items.iter().for_each(|t| walk(t, prefix, each)),
        UseTree::Glob(_) => each(prefix, None),
        UseTree::Name(n) if n.ident == "self" => each(prefix, prefix.last().cloned()),
        UseTree::Name(n) => each(&joined(prefix, &n.ident.to_string()), Some(n.ident.to_string())),
        UseTree::Rename(r) => {
            let path = if r.ident == "self" { prefix.clone() } else { joined(prefix, &r.ident.to_string()) };
            each(&path, Some(r.rename.to_string()));
        }
    }
}

fn attributes(item: &Item) -> Option<&Vec<syn::Attribute>> {
    Some(match item {
        Item::Fn(i) => &i.attrs,
        Item::Impl(i) => &i.attrs,
        Item::Mod(i) => &i.attrs,
        Item::Use(i) => &i.attrs,
        Item::Const(i) => &i.attrs,
        Item::Struct(i) => &i.attrs,
        _ => return None,
    })
}

fn is_test(attrs: &[syn::Attribute]) -> bool {
    attrs.iter().any(|a| matches!(&a.meta, syn::Meta::List(l) if l.path.is_ident("cfg") && l.tokens.to_string() == "test"))
}

fn named(item: &Item) -> Option<String> {
    Some(match item {
        Item::Const(i) => i.ident.to_string(),
        Item::Enum(i) => i.ident.to_string(),
        Item::Fn(i) => i.sig.ident.to_string(),
        Item::Macro(i) => i.ident.as_ref()?.to_string(),
        Item::Static(i) => i.ident.to_string(),
        Item::Struct(i) => i.ident.to_string(),
        Item::Trait(i) => i.ident.to_string(),
        Item::Type(i) => i.ident.to_string(),
        Item::Union(i) => i.ident.to_string(),
        _ => return None,
    })
}
