//! Osk, the badger who is the conductor of the last tram: curves authored for the demo, by line role.
//!
//! Coordinates are px of a 1920×1080 page. What ends in `*` is also drawn mirrored about Osk's middle line.

use kurbo::{Affine, BezPath, PathEl, Point};

/// The middle line of Osk.
pub const MIDDLE_X: f64 = 919.0;

/// A part of the drawing that moves together.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Limb {
    Head,
    Ears,
    Body,
    Arm,
    Umbrella,
    Tram,
}

/// Role index into [`ROLES`], part, path, and whether its mirror image is drawn too.
type Curve = (usize, Limb, &'static str, bool);

/// Line roles of the demo guide, in its order.
pub const ROLES: [&str; 6] = ["contour", "inner line", "lash line", "stripe", "prop line", "hole mark"];

const CONTOUR: usize = 0;
const INNER: usize = 1;
const LASH: usize = 2;
const STRIPE: usize = 3;
const PROP: usize = 4;
const HOLE: usize = 5;

pub(crate) const CURVES: &[Curve] = &[
    // Cap: crown, band, visor.
    (CONTOUR, Limb::Head, "M748 252C740 170 826 106 922 108C1020 106 1100 172 1090 252", false),
    (CONTOUR, Limb::Head, "M720 286C790 244 1050 240 1118 286", false),
    (CONTOUR, Limb::Head, "M712 294C760 350 830 330 919 330C1008 330 1078 350 1126 294", false),
    (INNER, Limb::Head, "M764 206C840 178 1000 178 1074 206", false),
    (INNER, Limb::Head, "M893 222C893 206 945 206 945 222C945 240 893 240 893 222Z", false),
    (INNER, Limb::Head, "M786 150C800 136 816 128 834 122", false),
    // Ears.
    (CONTOUR, Limb::Ears, "M716 334C668 286 612 330 634 392C642 416 658 430 676 436", true),
    (INNER, Limb::Ears, "M692 358C666 342 648 366 660 392", true),
    // Cheeks, ruffs and chin.
    (CONTOUR, Limb::Head, "M706 352C676 420 640 476 640 540C640 560 622 580 600 590C640 602 668 604 690 622C740 664 790 682 836 688", true),
    (CONTOUR, Limb::Head, "M836 688C866 716 972 716 1002 688", false),
    // The two dark stripes that run from the cap over the eyes to the muzzle.
    (STRIPE, Limb::Head, "M806 344C792 400 752 470 776 548C788 586 822 590 838 552C858 500 852 420 862 342", true),
    // Eyes: lash lines above, rims below, a fold over each.
    (LASH, Limb::Head, "M778 470C794 440 834 438 850 466", true),
    (INNER, Limb::Head, "M784 482C800 498 832 498 846 480", true),
    (INNER, Limb::Head, "M806 470C806 456 826 456 826 470C826 486 806 486 806 470Z", true),
    (LASH, Limb::Head, "M772 436C790 414 822 408 846 420", true),
    // Muzzle, nose and mouth.
    (CONTOUR, Limb::Head, "M864 560C874 536 964 536 974 560C976 590 944 614 919 616C894 614 862 590 864 560Z", false),
    (INNER, Limb::Head, "M888 556C898 550 912 548 924 548", false),
    (INNER, Limb::Head, "M919 618C920 640 896 662 862 650", true),
    (INNER, Limb::Head, "M846 634C850 648 856 656 866 662", true),
    // Whiskers.
    (INNER, Limb::Head, "M842 604C790 592 716 590 652 606", true),
    (INNER, Limb::Head, "M840 620C790 622 730 634 680 656", true),
    // Coat: collar, shoulders, lapels, sleeve, buttons, pocket.
    (CONTOUR, Limb::Body, "M826 696C800 716 780 742 772 772C820 770 872 790 919 846", true),
    (CONTOUR, Limb::Body, "M776 748C700 770 640 810 612 876C596 930 588 1000 586 1060", true),
    (INNER, Limb::Body, "M919 850C921 920 921 990 919 1060", false),
    (INNER, Limb::Body, "M866 716C884 738 902 752 919 752C936 752 954 738 972 716", false),
    (INNER, Limb::Body, "M944 900C944 884 970 884 970 900C970 918 944 918 944 900Z", false),
    (INNER, Limb::Body, "M944 980C944 964 970 964 970 980C970 998 944 998 944 980Z", false),
    (INNER, Limb::Body, "M1030 908C1070 900 1110 900 1150 910C1152 930 1150 946 1146 958C1110 962 1070 962 1036 956C1032 940 1030 924 1030 908Z", false),
    (INNER, Limb::Body, "M712 1060C706 1000 704 950 716 900", false),
    (INNER, Limb::Body, "M1126 1060C1132 1010 1134 980 1128 990", false),
    // The raised arm with the ticket punch.
    (CONTOUR, Limb::Arm, "M640 826C560 830 500 800 470 744C454 714 440 690 430 664", false),
    (CONTOUR, Limb::Arm, "M612 960C520 968 430 920 388 830C372 792 362 756 356 716", false),
    (INNER, Limb::Arm, "M352 740C380 712 410 694 442 688", false),
    (CONTOUR, Limb::Arm, "M430 664C444 630 430 590 398 582C362 574 330 598 328 640C328 676 340 700 358 716", false),
    (INNER, Limb::Arm, "M398 584C384 606 380 630 388 652", false),
    (PROP, Limb::Arm, "M330 626C280 610 236 590 204 560C190 546 196 524 216 524C262 528 318 552 352 584", false),
    (PROP, Limb::Arm, "M340 664C290 668 240 660 196 640C180 632 178 612 194 606", false),
    (PROP, Limb::Arm, "M226 552C226 538 248 538 248 552C248 568 226 568 226 552Z", false),
    // The stray umbrella, leaning.
    (PROP, Limb::Umbrella, "M1420 350C1372 480 1352 640 1392 800C1420 812 1450 812 1476 800C1500 640 1470 480 1420 350Z", false),
    (PROP, Limb::Umbrella, "M1420 356C1412 500 1414 660 1434 806", false),
    (PROP, Limb::Umbrella, "M1434 812C1438 880 1440 930 1440 968C1440 1020 1380 1024 1378 976", false),
    (PROP, Limb::Umbrella, "M1420 348C1420 326 1420 310 1418 292", false),
    // The tram's brass bell on its bracket, and the window's sill.
    (
        PROP,
        Limb::Tram,
        "M1560 300C1566 220 1626 180 1680 180C1734 180 1794 220 1800 300C1824 316 1830 330 1832 346C1740 366 1620 366 1528 346C1530 330 1536 316 1560 300Z",
        false,
    ),
    (PROP, Limb::Tram, "M1562 304C1640 322 1720 322 1798 304", false),
    (PROP, Limb::Tram, "M1660 360C1656 392 1704 392 1700 360", false),
    (PROP, Limb::Tram, "M1680 178C1678 140 1680 110 1684 70", false),
    (PROP, Limb::Tram, "M90 120C92 240 92 330 96 440", false),
    (PROP, Limb::Tram, "M100 446C130 452 150 452 178 448", false),
    // A mark for the paint department, not judged.
    (HOLE, Limb::Tram, "M1500 560L1526 586", false),
    (HOLE, Limb::Tram, "M1526 560L1500 586", false),
];

/// How Osk stands in one drawing.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Pose {
    pub nod_px: f64,
    pub tilt_deg: f64,
    pub ears_deg: f64,
    pub arm_deg: f64,
    pub sway_px: f64,
}

impl Pose {
    /// The pose of the drawing at phase 0…1 of the shot.
    pub fn in_phase(phase: f64) -> Self {
        let turn = std::f64::consts::TAU * phase;
        Self {
            nod_px: 7.0 * turn.sin(),
            tilt_deg: 3.2 * (turn + 0.5).sin(),
            ears_deg: 4.0 * (2.0 * turn).sin(),
            arm_deg: 6.0 * (turn - 0.8).sin(),
            sway_px: 4.0 * (turn + 1.1).cos(),
        }
    }

    fn placement(&self, part: Limb) -> Affine {
        let turn = |deg: f64, x: f64, y: f64| Affine::rotate_about(deg.to_radians(), Point::new(x, y));
        let head = Affine::translate((self.sway_px, self.nod_px)) * turn(self.tilt_deg, MIDDLE_X, 690.0);
        match part {
            Limb::Head | Limb::Ears => head,
            Limb::Body => Affine::translate((0.5 * self.sway_px, 0.0)),
            Limb::Arm => Affine::translate((0.5 * self.sway_px, 0.0)) * turn(self.arm_deg, 626.0, 890.0),
            Limb::Umbrella | Limb::Tram => Affine::IDENTITY,
        }
    }
}

/// All curves of a pose: role and points in px, about 3 px apart.
pub fn strokes(pose: &Pose) -> Vec<(usize, Vec<[f64; 2]>)> {
    let mut out = Vec::new();
    let mirror = Affine::new([-1.0, 0.0, 0.0, 1.0, 2.0 * MIDDLE_X, 0.0]);
    for (role, part, d, mirrored) in CURVES {
        let Ok(path) = BezPath::from_svg(d) else {
            continue;
        };
        for side in 0..=usize::from(*mirrored) {
            let mut place = pose.placement(*part);
            if *part == Limb::Ears {
                let (pivot, sign) = if side == 0 { (690.0, 1.0) } else { (2.0 * MIDDLE_X - 690.0, -1.0) };
                place *= Affine::rotate_about((sign * pose.ears_deg).to_radians(), Point::new(pivot, 390.0));
            }
            if side == 1 {
                place *= mirror;
            }
            out.push((*role, points(&(place * path.clone()))));
        }
    }
    out
}

fn points(path: &BezPath) -> Vec<[f64; 2]> {
    let mut out: Vec<[f64; 2]> = Vec::new();
    let mut first = Point::ZERO;
    kurbo::flatten(path, 0.05, |el| match el {
        PathEl::MoveTo(p) => {
            first = p;
            out.push([p.x, p.y]);
        }
        PathEl::LineTo(p) => lead(&mut out, p),
        PathEl::ClosePath => lead(&mut out, first),
        _ => {}
    });
    out
}

fn lead(out: &mut Vec<[f64; 2]>, to: Point) {
    let Some(&[x, y]) = out.last() else { return };
    let n = ((to.x - x).hypot(to.y - y) / 3.0).ceil().max(1.0) as usize;
    out.extend((1..=n).map(|i| {
        let t = i as f64 / n as f64;
        [x + (to.x - x) * t, y + (to.y - y) * t]
    }));
}
