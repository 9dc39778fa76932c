use eddymist_measure::{
    Picture,
    drawing::{Layer, Look, measure_all},
};
use eddymist_sim::handed_in::{Ground, planted::planted};
fn main() {
    let a: Vec<String> = std::env::args().collect();
    let g = Ground::ALL.into_iter().find(|g| format!("{g:?}") == a[1]).unwrap();
    let d = planted(
        g,
        if std::env::var("F").is_ok() {
            Some(eddymist_sim::handed_in::planted::Fault {
                kind: eddymist_sim::planted::KINDS.into_iter().find(|k| format!("{k:?}") == std::env::var("F").unwrap()).unwrap(),
                severity: std::env::var("S").unwrap().parse().unwrap(),
            })
        } else {
            None
        },
        a[2].parse().unwrap(),
    )
    .drawing;
    if let Ok(k) = std::env::var("F") {
        let f = eddymist_sim::handed_in::planted::Fault {
            kind: eddymist_sim::planted::KINDS.into_iter().find(|x| format!("{x:?}") == k).unwrap(),
            severity: std::env::var("S").unwrap().parse().unwrap(),
        };
        println!("AT {:?}", planted(g, Some(f), a[2].parse().unwrap()).at);
    }
    let p = d.picture();
    let picture = Picture::new(p.width, p.height, &p.data).unwrap();
    let plan = eddymist_check::plan::plan(&d.guide, 1.0);
    println!("{:?}", plan);
    let (l, i) = measure_all(&[Layer { picture, role: None }], &plan, &Look { gaps_px: vec![6.0; 3], region_px2: 0.0, least_paper_px: 0.5, off_palette: true });
    for (k, r) in l.roles.iter().enumerate() {
        println!("role {k}: {} lines, ink {:.0}", r.lines.len(), r.ink_px2);
    }
    println!("masked {:?}", l.masked.iter().map(|m| (m.kind, m.x, m.y, m.width, m.height)).collect::<Vec<_>>());
    for s in i.ink.iter().filter(|s| s.area_px2 < 12.0) {
        println!("{:.1},{:.1} {:.1} role {:?}", s.x, s.y, s.area_px2, s.role);
    }
    for s in i.paper.iter().filter(|s| s.area_px2 < 12.0) {
        println!("hole {:.1},{:.1} {:.1} role {:?} {} {}", s.x, s.y, s.area_px2, s.role, s.black, s.texture);
    }
    if a.len() > 4 {
        let (x, y): (f32, f32) = (a[3].parse().unwrap(), a[4].parse().unwrap());
        for (k, r) in l.roles.iter().enumerate() {
            for q in &r.lines {
                if q.points.iter().any(|p| (p.x - x).hypot(p.y - y) < 25.0) {
                    println!("role {k} len {:.0} closed {} ends {:?} hatch {}", q.length_px(), q.closed, q.ends, q.hatching);
                    println!(
                        "{}",
                        q.points
                            .iter()
                            .map(|p| format!("{:.0},{:.0}:{:.1}{}", p.x, p.y, p.width, format!("{:?}", p.place).chars().next().unwrap()))
                            .collect::<Vec<_>>()
                            .join(" ")
                    );
                }
            }
        }
    }
}
