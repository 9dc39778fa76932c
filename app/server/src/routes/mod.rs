//! The routes: each handler does one thing, computation is core's, SQL is store's.

mod accounts;
mod archive;
mod bodies;
mod brushes;
mod deciding;
mod deliveries;
mod desk;
mod drawings;
mod guides;
mod inked;
mod library;
mod members;
mod pairs;
mod pens;
mod proofs;
pub mod register;
pub mod session;
mod sheets;
mod tablets;
mod takes;
mod team;
mod trials;

use crate::routes::register::{Api, BRUSH_BYTES, DOCUMENT_BYTES, PAGE_BYTES};
use eddymist_store::model::*;

/// All routes with their description.
pub fn api() -> Api {
    const P: &str = "/productions/{production}";
    let p = |rest: &str| format!("{P}{rest}");
    Api::new()
        .read::<Session, _, _>("/session", "Who is signed in", session::read)
        .open()
        .write::<Credentials, Session, _, _>("post", "/session", "Sign in", session::sign_in)
        .act::<Session, _, _>("delete", "/session", "Sign out", session::sign_out)
        .open()
        .write::<FirstMember, Session, _, _>("post", "/first-member", "Create the first account and their production", session::first)
        .write::<ChangePassword, (), _, _>("put", "/account/password", "Change one's own password; every other sign-in ends", session::change_password)
        .read::<Vec<SignInView>, _, _>("/account/sign-ins", "Where one is signed in", session::sign_ins)
        .act::<(), _, _>("delete", "/account/sign-ins/{id}", "End a sign-in", session::end_sign_in)
        .open()
        .read::<InvitationOpened, _, _>("/invitations/{secret}", "What an invitation says", members::invitation)
        .open()
        .write::<Join, Session, _, _>("post", "/invitations/{secret}", "Accept an invitation", members::join)
        .make::<NewProduction, Created, _, _>("/productions", "Begin another production", accounts::add_production)
        .open()
        .read::<ResetOpened, _, _>("/resets/{secret}", "What a password link says", accounts::open_reset)
        .open()
        .write::<NewPassword, Session, _, _>("post", "/resets/{secret}", "Choose a new password by a link", accounts::use_reset)
        .write::<NewName, (), _, _>("put", &p("/name"), "Rename the production", accounts::rename_production)
        .act::<(), _, _>("put", &p("/archived"), "Archive the production: it can be looked at, not changed", accounts::archive_production)
        .act::<(), _, _>("delete", &p("/archived"), "Restore the production", accounts::restore_production)
        .act::<ResetLink, _, _>("post", &p("/members/{member}/reset"), "A link by which a member chooses a new password", accounts::reset)
        .act::<(), _, _>("put", &p("/members/{member}/disabled"), "Disable a member's account", accounts::disable)
        .act::<(), _, _>("delete", &p("/members/{member}/disabled"), "Reopen a member's account", accounts::enable)
        .act::<(), _, _>("delete", &p("/members/{member}/account"), "Erase a member's account", accounts::erase)
        .read::<MembersView, _, _>(&p("/members"), "Members and invitations", members::members)
        .write::<ChangePart, (), _, _>("put", &p("/members/{member}"), "Change a member's access", members::change_part)
        .act::<(), _, _>("delete", &p("/members/{member}"), "Remove a member, or leave", members::take_out)
        .make::<Invite, Invited, _, _>(&p("/invitations"), "Invite an address", members::invite)
        .act::<(), _, _>("delete", &p("/invitations/{id}"), "Withdraw an invitation", members::withdraw)
        .read::<Vec<ArtistLink>, _, _>(&p("/artists"), "The artists in the manifests, and the members they are linked to", members::artists)
        .write::<LinkArtist, (), _, _>("put", &p("/artists"), "Link an artist to a member", members::link_artist)
        .ask::<LogAsk, Vec<LogRow>, _, _>(&p("/log"), "What was changed, a hundred rows at a time, the last first", members::log)
        .ask::<PageAsk, Vec<Archived>, _, _>(&p("/archive"), "What is archived, the last first, 200 at a time", archive::archived)
        .act::<(), _, _>("put", &p("/archive/{kind}/{id}"), "Archive: pens, profiles, brushes, guides, deliveries or trials", archive::archive)
        .act::<(), _, _>("delete", &p("/archive/{kind}/{id}"), "Restore from the archive", archive::unarchive)
        .read::<Removal, _, _>(&p("/removal/{kind}/{id}"), "What would be deleted with it", archive::removal)
        .ask_removal::<RemovalAsk, _, _>(&p("/removal/{kind}/{id}"), "Delete for good what is archived, with the count as it was shown", archive::remove)
        .read::<Vec<DeskItem>, _, _>(&p("/desk"), "What waits", desk::read)
        .ask::<TeamAsk, TeamView, _, _>(&p("/team"), "Who differs from the guide", team::read)
        .ask::<TeamAsk, WorkingView, _, _>(&p("/team/working/{name}/{role}"), "The working behind one of them in one role", team::behind)
        .ask_file::<TeamAsk, _, _>(&p("/team/report/{kind}"), "The report: pdf or csv", &["application/pdf", "text/csv"], team::take_report)
        .read::<Vec<TrimView>, _, _>(&p("/trims"), "Weight corrections that were offered", team::list)
        .make::<OfferTrim, Created, _, _>(&p("/trims"), "Offer a weight correction to an artist", team::offer)
        .act::<Created, _, _>("post", &p("/trims/{id}/take"), "Accept a weight correction", team::take)
        .act::<(), _, _>("delete", &p("/trims/{id}"), "Decline a weight correction, or withdraw it", team::leave)
        .upload::<ScanView, _, _>(&p("/scans"), "Measure a scan; nothing is saved as a pen", pens::measure)
        .up_to(DOCUMENT_BYTES)
        .write::<ScanMarks, Vec<MarkRead>, _, _>("post", &p("/scans/{sha}/marks"), "Flicks and dots marked on a scan; nothing is saved", pens::marks)
        .ask::<ScanLinesAsk, ScanLines, _, _>(&p("/scans/{sha}/lines"), "The lines of a scan, for a hand that goes over them", pairs::lines)
        .ask::<PageAsk, Vec<PenSummary>, _, _>(&p("/pens"), "The drawer, 200 at a time", pens::list)
        .up_to(DOCUMENT_BYTES)
        .make::<NewPen, Created, _, _>(&p("/pens"), "Save a pen", pens::keep)
        .read::<PenView, _, _>(&p("/pens/{id}"), "A pen", pens::one)
        .file(
            &p("/pens/{id}/files/{what}"),
            "A pen exported: card.json, strip.png, lines.svg, figures.csv",
            &["application/json", "image/png", "image/svg+xml", "text/csv"],
            sheets::export,
        )
        .read::<Vec<eddymist_calibrate::compare::Change>, _, _>(
            &p("/pens/{id}/against/{other}"),
            "What changed from one pen or scan to another",
            sheets::against,
        )
        .write::<Tags, (), _, _>("put", &p("/pens/{id}/tags"), "Tag a pen", sheets::tag)
        .write::<NewName, (), _, _>("put", &p("/pens/{id}/name"), "Rename a pen", pens::rename)
        .file(
            &p("/sampler-sheet/{paper}/{kind}"),
            "A fresh sampler sheet: a4 or letter, as pdf, svg, png or ora",
            &["application/pdf", "image/svg+xml", "image/png", "image/openraster"],
            sheets::print,
        )
        .upload::<SheetView, _, _>(&p("/sheets"), "Read a sampler sheet; nothing is saved as a pen", sheets::read)
        .up_to(DOCUMENT_BYTES)
        .write::<SheetAgain, SheetView, _, _>("post", &p("/sheets/{sha}"), "Read a sheet again with cells marked by hand; nothing is saved", sheets::again)
        .up_to(DOCUMENT_BYTES)
        .make::<NewSheetPen, Created, _, _>(&p("/pens/sheet"), "Save pen of a sheet", sheets::keep)
        .ask_file::<bodies::Simulated, _, _>(
            &p("/stand-ins/sheets/{pen}"),
            "A simulated scan or photo of a sheet inked by a simulated pen",
            &["image/png", "image/jpeg"],
            sheets::simulated,
        )
        .ask_file::<sheets::Preview, _, _>(&p("/images/{sha}/preview"), "A picture, small enough for a page", &["image/png"], sheets::preview)
        .file(&p("/images/{sha}"), "A picture", &["image/png", "image/jpeg", "application/octet-stream"], pens::image)
        .read::<StandIns, _, _>(&p("/stand-ins"), "Simulated hands, tablets and pens", tablets::stand_ins)
        .ask_file::<bodies::Simulated, _, _>(
            &p("/stand-ins/scans/{pen}"),
            "A simulated scan of a simulated pen, or a photo beside a card",
            &["image/png", "image/jpeg"],
            pens::simulated,
        )
        .file(&p("/stand-ins/delivery"), "A simulated delivery: 24 drawings, their manifest and their guide", &["application/zip"], takes::simulated)
        .read::<eddymist_check::LineGuide, _, _>(&p("/stand-ins/delivery-guide"), "The guide of the simulated delivery", takes::simulated_guide)
        .write::<SimulatedWarmUp, ProfileReading, _, _>("post", &p("/stand-ins/warm-up"), "A simulated warm-up", tablets::simulated)
        .up_to(BRUSH_BYTES)
        .write::<WarmUpText, ProfileReading, _, _>("post", &p("/warm-ups"), "Read a warm-up; nothing is saved", tablets::read)
        .up_to(BRUSH_BYTES)
        .write::<DrawnWarmUp, ProfileReading, _, _>("post", &p("/warm-ups/strokes"), "Read a warm-up drawn on the page; nothing is saved", tablets::drawn)
        .ask::<PageAsk, Vec<ProfileView>, _, _>(&p("/profiles"), "Tablet profiles, 200 at a time", tablets::list)
        .up_to(BRUSH_BYTES)
        .make::<NewProfile, Created, _, _>(&p("/profiles"), "Save a profile", tablets::keep)
        .read::<TransferView, _, _>(&p("/transfer"), "The same intended strokes on every tablet, raw and corrected", tablets::transferred)
        .read::<eddymist_calibrate::steadiness::Evidence, _, _>(&p("/profiles/{id}/evidence"), "Strokes that show each figure of a profile", tablets::evidence)
        .read::<eddymist_calibrate::quantiles::SecondEstimate, _, _>(
            &p("/profiles/{id}/second-estimate/{pen}"),
            "The response by the quantiles of free drawing, beside the profile's",
            tablets::second_estimate,
        )
        .up_to(BRUSH_BYTES)
        .write::<DrawnWarmUp, eddymist_calibrate::transfer::Recheck, _, _>(
            "post",
            &p("/profiles/{id}/re-check"),
            "Whether a profile still holds; nothing is saved",
            tablets::recheck,
        )
        .make::<ScaleReadings, Created, _, _>(&p("/profiles/{id}/hand-scale"), "Save a profile again with the force of a kitchen scale", tablets::hand_scale)
        .write::<SimulatedPairs, SimulatedPage, _, _>("post", &p("/stand-ins/pairs"), "A page and its recording by a simulated hand and pen", pairs::simulated)
        .up_to(BRUSH_BYTES)
        .write::<PairsAsk, PairsView, _, _>(
            "post",
            &p("/profiles/{id}/pairs"),
            "Pressure and ink of the same strokes of a profile's hand; nothing is saved",
            pairs::read,
        )
        .read::<PairsView, _, _>(&p("/profiles/{id}/pairs"), "The pairs that a profile's response comes from", pairs::saved)
        .up_to(BRUSH_BYTES)
        .make::<PairsAsk, Created, _, _>(&p("/profiles/{id}/response"), "Save a profile again with its response from pairs of pressure and ink", pairs::keep)
        .read::<ProfileView, _, _>(&p("/profiles/{id}"), "A profile", tablets::one)
        .write::<NewName, (), _, _>("put", &p("/profiles/{id}/tablet"), "Rename a profile's tablet", tablets::rename)
        .file(&p("/profiles/{id}/warm-up"), "Its warm-up as InkML", &["application/inkml+xml"], tablets::warmup)
        .ask::<PageAsk, Vec<BrushSummary>, _, _>(&p("/brushes"), "The rack, 200 at a time", brushes::list)
        .make::<NewBrush, Created, _, _>(&p("/brushes"), "A brush from a pen, or from a copy", brushes::create)
        .read::<BrushView, _, _>(&p("/brushes/{id}"), "A brush with its versions", brushes::one)
        .up_to(BRUSH_BYTES)
        .write::<Draft, (), _, _>("put", &p("/brushes/{id}/draft"), "Save a draft", brushes::draft)
        .ask::<VersionsAsk, Vec<BrushVersion>, _, _>(&p("/brushes/{id}/versions"), "Its versions, the newest first, 200 at a time", brushes::versions)
        .up_to(BRUSH_BYTES)
        .make::<SaveBrush, Created, _, _>(&p("/brushes/{id}/versions"), "Save: adds a version", brushes::save)
        .write::<GoBack, (), _, _>("post", &p("/brushes/{id}/current"), "Restore a version", brushes::go_back)
        .up_to(BRUSH_BYTES)
        .write::<BenchRequest, Bench, _, _>("post", &p("/brushes/{id}/bench"), "Pen and brush over one ruler", brushes::bench)
        .write::<Tags, (), _, _>("put", &p("/brushes/{id}/tags"), "Tag a brush", library::tag)
        .up_to(BRUSH_BYTES)
        .write::<DenseStrokes, Density, _, _>("post", &p("/brushes/{id}/density"), "How coarse and how dark it makes strokes", inked::density)
        .read::<Vec<BlindKept>, _, _>(&p("/brushes/{id}/blind"), "Its blind proofs", proofs::kept)
        .write::<BlindAsk, BlindView, _, _>("post", &p("/brushes/{id}/versions/{version}/blind"), "Begin a blind proof of a version", proofs::begin)
        .up_to(DOCUMENT_BYTES)
        .write::<BlindAnswers, BlindTold, _, _>("post", &p("/brushes/{id}/blind/{proof}"), "Answer a blind proof", proofs::answer)
        .ask::<RecipeAsk, RecipeView, _, _>(&p("/brushes/{id}/recipe"), "The recipe for another program's brush", proofs::make)
        .file(
            &p("/brushes/{id}/recipe/{kind}"),
            "The same as pdf, or zip with tip, strip and numbers",
            &["application/pdf", "application/zip"],
            proofs::recipe_file,
        )
        .file(&p("/proof-sheet/{brushes}/{kind}"), "The proof sheet of id@version,…: pdf or svg", &["application/pdf", "image/svg+xml"], inked::proof)
        .upload::<TipView, _, _>(&p("/tips"), "Read a tip from a PNG or a scan; nothing is saved", inked::tip)
        .upload::<PathsView, _, _>(&p("/paths"), "Read the lines of an SVG; nothing is saved", inked::paths)
        .up_to(PAGE_BYTES)
        .file_of::<InkPaths, _, _>(
            &p("/paths/{kind}"),
            "Ink lines: svg (outlines) or inkml (strokes)",
            &["image/svg+xml", "application/inkml+xml"],
            inked::ink_paths,
        )
        .file(&p("/library"), "All brushes and the pen roll as one file", &["application/json"], library::take)
        .up_to(PAGE_BYTES)
        .write::<LibraryText, LibraryReading, _, _>("post", &p("/library/read"), "Read a library; nothing is saved", library::read)
        .up_to(PAGE_BYTES)
        .write::<TakeLibrary, LibraryTaken, _, _>("post", &p("/library"), "Import a library", library::bring)
        .upload::<RoughView, _, _>(&p("/roughs"), "Save a picture for a trial page", trials::rough)
        .ask::<PageAsk, Vec<TrialSummary>, _, _>(&p("/trials"), "Trial pages, 200 at a time", trials::list)
        .up_to(PAGE_BYTES)
        .make::<NewTrial, Created, _, _>(&p("/trials"), "A new trial page", trials::create)
        .read::<TrialView, _, _>(&p("/trials/{id}"), "A trial page", trials::one)
        .up_to(PAGE_BYTES)
        .write::<SaveTrial, TrialSaved, _, _>("put", &p("/trials/{id}"), "Save a trial page's strokes", trials::save)
        .read::<TrialSizes, _, _>(&p("/trials/{id}/sizes"), "Bytes of its SVG, stroke by stroke and merged", trials::sizes)
        .ask::<ScanLinesAsk, eddymist_calibrate::my_page::PagesBeside, _, _>(
            &p("/trials/{id}/beside/{sha}"),
            "Widths and tapers of a scanned page beside those of a trial page",
            trials::beside,
        )
        .file(
            &p("/trials/{id}/out/{kind}"),
            "The page: svg, merged.svg, png, hard.png, ora or inkml",
            &["image/svg+xml", "image/png", "image/openraster", "application/inkml+xml"],
            trials::out,
        )
        .read::<Vec<RollItem>, _, _>(&p("/roll"), "The pen roll", library::roll)
        .up_to(DOCUMENT_BYTES)
        .write::<PutRoll, Vec<RollItem>, _, _>("put", &p("/roll"), "Change the pen roll", library::put_roll)
        .read::<Vec<GuideView>, _, _>(&p("/guides"), "Line guides", guides::list)
        .up_to(DOCUMENT_BYTES)
        .make::<eddymist_check::LineGuide, Created, _, _>(&p("/guides"), "A new guide", guides::create)
        .up_to(DOCUMENT_BYTES)
        .make::<SaveGuide, Created, _, _>(&p("/guides/{id}/versions"), "Save: adds a version", guides::save)
        .ask::<VersionsAsk, Vec<GuideView>, _, _>(&p("/guides/{id}/versions"), "Versions of a guide, the newest first, 200 at a time", guides::versions)
        .upload::<ModelSheetView, _, _>(&p("/model-sheets"), "Measure the lines of a model sheet", guides::model_sheet)
        .up_to(DOCUMENT_BYTES)
        .write::<RoleFromLines, eddymist_check::model::RoleRead, _, _>(
            "post",
            &p("/model-sheets/{sha}/role"),
            "A role made of some of its lines; nothing is saved",
            guides::role_from_lines,
        )
        .write::<TryGuide, GuideTried, _, _>(
            "post",
            &p("/guides/{id}/try"),
            "What an unsaved guide would change on a delivery, some drawings at a time",
            guides::try_it,
        )
        .up_to(BRUSH_BYTES)
        .write::<NamesPreview, NamesRead, _, _>("post", &p("/names"), "How files are known by their names and a manifest", deliveries::names)
        .ask::<DeliveriesAsk, Vec<DeliverySummary>, _, _>(&p("/deliveries"), "The newest deliveries, a hundred at a time, the last last", deliveries::list)
        .up_to(BRUSH_BYTES)
        .make::<NewDelivery, Created, _, _>(&p("/deliveries"), "A new delivery", deliveries::create)
        .read::<DeliveryView, _, _>(&p("/deliveries/{id}"), "A delivery with the first 200 of its drawings", deliveries::one)
        .read::<DeliveryStrip, _, _>(&p("/deliveries/{id}/strip"), "A delivery in small: three pictures, and how its drawings stand", deliveries::strip)
        .ask::<PageAsk, Vec<DrawingSummary>, _, _>(&p("/deliveries/{id}/drawings"), "Its drawings in their order, 200 at a time", deliveries::drawings)
        .upload_archives::<Vec<FileTaken>, _, _>(&p("/deliveries/{id}/drawings"), "Add drawings; they are checked at once", deliveries::add)
        .up_to(BRUSH_BYTES)
        .write::<SetManifest, (), _, _>("put", &p("/deliveries/{id}/manifest"), "How the drawings are known: by name, manifest, hand", deliveries::set_manifest)
        .write::<SetAside, Vec<String>, _, _>(
            "post",
            &p("/deliveries/{id}/aside"),
            "Remove drawings, mark them as no drawings, or restore them",
            takes::set_aside,
        )
        .file(&p("/deliveries/{id}/progress"), "Progress as server-sent events", &["text/event-stream"], deliveries::progress)
        .act::<(), _, _>("post", &p("/deliveries/{id}/check"), "Check again, with the guide's current version", deliveries::check_again)
        .act::<(), _, _>("post", &p("/deliveries/{id}/stop"), "Stop the check", deliveries::stop)
        .act::<(), _, _>("post", &p("/deliveries/{id}/go-on"), "Resume the check", deliveries::go_on)
        .up_to(BRUSH_BYTES)
        .write::<Decide, Vec<i32>, _, _>("post", &p("/deliveries/{id}/decisions"), "Decide on drawings, all or none", deciding::decide)
        .read::<eddymist_check::LineCheck, _, _>(&p("/deliveries/{id}/line-check"), "The findings as a document", deliveries::document)
        .file(&p("/deliveries/{id}/out/{what}"), "findings.csv, overlays-png.zip or overlays-svg.zip", &["text/csv", "application/zip"], deliveries::out)
        .ask_file::<deliveries::Printed, _, _>(
            &p("/deliveries/{id}/notes/{name}"),
            "What was returned to an artist, with pictures, to be printed or sent",
            &["application/pdf"],
            deliveries::artist_notes,
        )
        .ask_file::<deliveries::Printed, _, _>(
            &p("/deliveries/{id}/notes"),
            "What was returned to every artist, a PDF each in a ZIP",
            &["application/zip"],
            deliveries::every_note,
        )
        .read::<DrawingView, _, _>(&p("/drawings/{id}"), "A drawing with its measured lines", drawings::one)
        .upload::<FileTaken, _, _>(&p("/drawings/{id}/takes"), "Hand in the next take of a drawing, with a note", takes::hand_in)
        .write::<TakeOf, (), _, _>("put", &p("/drawings/{id}/take-of"), "Say whose next take a drawing is, or that it is a drawing of its own", takes::take_of)
        .read::<LaidView, _, _>(&p("/drawings/{id}/laid-on/{onto}"), "How a scanned drawing lies on another", drawings::laid)
        .up_to(DOCUMENT_BYTES)
        .make::<Dismiss, Created, _, _>(&p("/drawings/{id}/dismissals"), "Mark a finding as intended", drawings::dismiss)
        .act::<(), _, _>("delete", &p("/drawings/{id}/dismissals/{dismissal}"), "A finding is no longer marked as intended", drawings::undo_dismissal)
        .read::<Vec<Alike>, _, _>(&p("/drawings/{id}/alike/{finding}"), "Where else in the delivery a finding recurs", deciding::alike)
        .up_to(BRUSH_BYTES)
        .write::<DismissMany, Vec<MarkedOne>, _, _>(
            "post",
            &p("/deliveries/{id}/dismissals"),
            "Mark findings of several drawings as intended",
            deciding::dismiss,
        )
        .make::<eddymist_check::limits::LeftOut, Created, _, _>(
            &p("/drawings/{id}/regions"),
            "Leave a region out of one drawing, and check it again",
            takes::leave_out,
        )
        .act::<(), _, _>("delete", &p("/drawings/{id}/regions/{region}"), "A region is no longer left out of a drawing", takes::put_in)
        .make::<NewPin, Created, _, _>(&p("/drawings/{id}/pins"), "Add a pin", drawings::pin)
        .act::<(), _, _>("delete", &p("/drawings/{id}/pins/{pin}"), "Remove a pin", drawings::unpin)
        .read::<AcrossView, _, _>(
            &p("/drawings/{id}/across/{x}/{y}/{normal}"),
            "The ink across a line at a place in px, the normal in degrees",
            drawings::across,
        )
        .file(&p("/drawings/{id}/overlay/{kind}"), "Its lines coloured by how they weigh: png or svg", &["image/png", "image/svg+xml"], drawings::overlay)
}
