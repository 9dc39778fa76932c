//! The routes: each handler does one thing, computation is core's, SQL is store's.

mod archive;
mod bodies;
mod brushes;
mod deliveries;
mod desk;
mod drawings;
mod guides;
mod inked;
mod library;
mod members;
mod pens;
mod proofs;
pub mod register;
pub mod session;
mod sheets;
mod tablets;
mod team;
mod trials;

use crate::routes::register::Api;
use eddymist_store::model::*;

/// All routes with their description.
pub fn api() -> Api {
    const P: &str = "/productions/{production}";
    let p = |rest: &str| format!("{P}{rest}");
    Api::new()
        .read::<Session, _, _>("/session", "Who is signed in", session::read)
        .act::<Session, _, _>("delete", "/session", "Sign out", session::sign_out)
        .write::<FirstMember, Session, _, _>("post", "/first-member", "Make the first member and their production", session::first)
        .write::<ChangePassword, (), _, _>("put", "/account/password", "Change one's own password; every other sign-in ends", session::change_password)
        .read::<Vec<SignInView>, _, _>("/account/sign-ins", "Where one is signed in", session::sign_ins)
        .act::<(), _, _>("delete", "/account/sign-ins/{id}", "End a sign-in", session::end_sign_in)
        .read::<InvitationOpened, _, _>("/invitations/{secret}", "What an invitation says", members::invitation)
        .write::<Join, Session, _, _>("post", "/invitations/{secret}", "Accept an invitation", members::join)
        .read::<MembersView, _, _>(&p("/members"), "Members and invitations", members::members)
        .write::<ChangePart, (), _, _>("put", &p("/members/{member}"), "Change a member's part", members::change_part)
        .act::<(), _, _>("delete", &p("/members/{member}"), "Take a member out, or leave", members::take_out)
        .write::<Invite, Invited, _, _>("post", &p("/invitations"), "Invite an address", members::invite)
        .act::<(), _, _>("delete", &p("/invitations/{id}"), "Withdraw an invitation", members::withdraw)
        .ask::<LogAsk, Vec<LogRow>, _, _>(&p("/log"), "What was changed, a hundred rows at a time, the last first", members::log)
        .read::<Vec<Archived>, _, _>(&p("/archive"), "What is archived", archive::archived)
        .act::<(), _, _>("put", &p("/archive/{kind}/{id}"), "Archive: pens, profiles, brushes, guides, deliveries or trials", archive::archive)
        .act::<(), _, _>("delete", &p("/archive/{kind}/{id}"), "Take out of the archive", archive::unarchive)
        .read::<Removal, _, _>(&p("/removal/{kind}/{id}"), "What would go with a removal", archive::removal)
        .act::<(), _, _>("delete", &p("/removal/{kind}/{id}"), "Really remove what is archived; ?count= as it was shown", archive::remove)
        .read::<Vec<DeskItem>, _, _>(&p("/desk"), "What waits", desk::read)
        .ask::<TeamAsk, TeamView, _, _>(&p("/team"), "Who differs from the guide", team::read)
        .ask::<TeamAsk, WorkingView, _, _>(&p("/team/working/{name}/{role}"), "The working behind one of them in one role", team::behind)
        .ask::<TeamAsk, (), _, _>(&p("/team/report/{kind}"), "The report: pdf or csv", team::take_report)
        .read::<Vec<TrimView>, _, _>(&p("/trims"), "Trims that were offered", team::list)
        .write::<OfferTrim, Created, _, _>("post", &p("/trims"), "Offer a trim to an artist", team::offer)
        .act::<Created, _, _>("post", &p("/trims/{id}/take"), "Take a trim that is offered to one", team::take)
        .act::<(), _, _>("delete", &p("/trims/{id}"), "Decline a trim, or withdraw it", team::leave)
        .upload::<ScanView, _, _>(&p("/scans"), "Measure a scan; nothing is kept as a pen", pens::measure)
        .write::<ScanMarks, Vec<MarkRead>, _, _>("post", &p("/scans/{sha}/marks"), "Flicks and dots marked on a scan; nothing is kept", pens::marks)
        .read::<Vec<PenSummary>, _, _>(&p("/pens"), "The drawer", pens::list)
        .write::<NewPen, Created, _, _>("post", &p("/pens"), "Keep a pen", pens::keep)
        .read::<PenView, _, _>(&p("/pens/{id}"), "A pen", pens::one)
        .read::<(), _, _>(&p("/pens/{id}/files/{what}"), "A pen taken elsewhere: card.json, strip.png, lines.svg, figures.csv", sheets::export)
        .read::<Vec<eddymist_calibrate::compare::Change>, _, _>(
            &p("/pens/{id}/against/{other}"),
            "What changed from one pen or scan to another",
            sheets::against,
        )
        .write::<Tags, (), _, _>("put", &p("/pens/{id}/tags"), "Tag a pen", sheets::tag)
        .read::<(), _, _>(&p("/sampler-sheet/{paper}/{kind}"), "A fresh sampler sheet: a4 or letter, as pdf, svg, png or ora", sheets::print)
        .upload::<SheetView, _, _>(&p("/sheets"), "Read a sampler sheet; nothing is kept as a pen", sheets::read)
        .write::<SheetAgain, SheetView, _, _>("post", &p("/sheets/{sha}"), "Read a sheet again with cells marked by hand; nothing is kept", sheets::again)
        .write::<NewSheetPen, Created, _, _>("post", &p("/pens/sheet"), "Keep the pen of a sheet", sheets::keep)
        .read::<(), _, _>(&p("/stand-ins/sheets/{pen}"), "A simulated scan of a sheet inked by a simulated pen", sheets::simulated)
        .read::<(), _, _>(&p("/images/{sha}/preview"), "A picture, small enough for a page", sheets::preview)
        .read::<(), _, _>(&p("/images/{sha}"), "A picture", pens::image)
        .read::<StandIns, _, _>(&p("/stand-ins"), "Simulated hands, tablets and pens", tablets::stand_ins)
        .read::<(), _, _>(&p("/stand-ins/scans/{pen}"), "A simulated scan of a simulated pen", pens::simulated)
        .write::<SimulatedWarmUp, ProfileReading, _, _>("post", &p("/stand-ins/warm-up"), "A simulated warm-up", tablets::simulated)
        .write::<WarmUpText, ProfileReading, _, _>("post", &p("/warm-ups"), "Read a warm-up; nothing is kept", tablets::read)
        .write::<DrawnWarmUp, ProfileReading, _, _>("post", &p("/warm-ups/strokes"), "Read a warm-up drawn on the page; nothing is kept", tablets::drawn)
        .read::<Vec<ProfileView>, _, _>(&p("/profiles"), "Tablet profiles", tablets::list)
        .write::<NewProfile, Created, _, _>("post", &p("/profiles"), "Keep a profile", tablets::keep)
        .read::<TransferView, _, _>(&p("/transfer"), "The same intended strokes on every tablet, raw and corrected", tablets::transferred)
        .read::<eddymist_calibrate::steadiness::Evidence, _, _>(&p("/profiles/{id}/evidence"), "Strokes that show each figure of a profile", tablets::evidence)
        .read::<eddymist_calibrate::quantiles::SecondEstimate, _, _>(
            &p("/profiles/{id}/second-estimate/{pen}"),
            "The response by the quantiles of free drawing, beside the profile's",
            tablets::second_estimate,
        )
        .write::<DrawnWarmUp, eddymist_calibrate::transfer::Recheck, _, _>(
            "post",
            &p("/profiles/{id}/re-check"),
            "Whether a profile still holds; nothing is kept",
            tablets::recheck,
        )
        .write::<ScaleReadings, Created, _, _>(
            "post",
            &p("/profiles/{id}/hand-scale"),
            "Keep the profile anew with the force of a kitchen scale",
            tablets::hand_scale,
        )
        .read::<ProfileView, _, _>(&p("/profiles/{id}"), "A profile", tablets::one)
        .read::<(), _, _>(&p("/profiles/{id}/warm-up"), "Its warm-up as InkML", tablets::warmup)
        .read::<Vec<BrushSummary>, _, _>(&p("/brushes"), "The rack", brushes::list)
        .write::<NewBrush, Created, _, _>("post", &p("/brushes"), "A brush from a pen, or from a copy", brushes::create)
        .read::<BrushView, _, _>(&p("/brushes/{id}"), "A brush with its versions", brushes::one)
        .write::<Draft, (), _, _>("put", &p("/brushes/{id}/draft"), "Keep unsaved work", brushes::draft)
        .write::<SaveBrush, Created, _, _>("post", &p("/brushes/{id}/versions"), "Save: adds a version", brushes::save)
        .write::<GoBack, (), _, _>("post", &p("/brushes/{id}/current"), "Go back to a version", brushes::go_back)
        .write::<BenchRequest, Bench, _, _>("post", &p("/brushes/{id}/bench"), "Pen and brush over one ruler", brushes::bench)
        .write::<Tags, (), _, _>("put", &p("/brushes/{id}/tags"), "Tag a brush", library::tag)
        .write::<DenseStrokes, Density, _, _>("post", &p("/brushes/{id}/density"), "How coarse and how dark it makes strokes", inked::density)
        .read::<Vec<BlindKept>, _, _>(&p("/brushes/{id}/blind"), "Its blind proofs", proofs::kept)
        .act::<BlindView, _, _>("post", &p("/brushes/{id}/versions/{version}/blind"), "Begin a blind proof of a version", proofs::begin)
        .write::<BlindAnswers, BlindTold, _, _>("post", &p("/brushes/{id}/blind/{proof}"), "Answer a blind proof", proofs::answer)
        .read::<RecipeView, _, _>(&p("/brushes/{id}/recipe/{other}"), "The recipe for another program's brush, by its card", proofs::make)
        .read::<(), _, _>(&p("/proof-sheet/{brushes}/{kind}"), "The proof sheet of id@version,…: pdf or svg", inked::proof)
        .upload::<TipView, _, _>(&p("/tips"), "Read a tip from a PNG or a scan; nothing is kept", inked::tip)
        .upload::<PathsView, _, _>(&p("/paths"), "Read the lines of an SVG; nothing is kept", inked::paths)
        .write::<InkPaths, (), _, _>("post", &p("/paths/{kind}"), "Ink lines: svg (outlines) or inkml (strokes)", inked::ink_paths)
        .read::<(), _, _>(&p("/library"), "All brushes and the pen roll as one file", library::take)
        .write::<LibraryText, LibraryReading, _, _>("post", &p("/library/read"), "Read a library; nothing is kept", library::read)
        .write::<TakeLibrary, LibraryTaken, _, _>("post", &p("/library"), "Bring a library in", library::bring)
        .upload::<RoughView, _, _>(&p("/roughs"), "Keep a picture for a trial page", trials::rough)
        .read::<Vec<TrialSummary>, _, _>(&p("/trials"), "Trial pages", trials::list)
        .write::<NewTrial, Created, _, _>("post", &p("/trials"), "A new trial page", trials::create)
        .read::<TrialView, _, _>(&p("/trials/{id}"), "A trial page", trials::one)
        .write::<SaveTrial, TrialSaved, _, _>("put", &p("/trials/{id}"), "Keep a trial page's strokes", trials::save)
        .read::<TrialSizes, _, _>(&p("/trials/{id}/sizes"), "Bytes of its SVG, stroke by stroke and merged", trials::sizes)
        .read::<(), _, _>(&p("/trials/{id}/out/{kind}"), "The page: svg, merged.svg, png, hard.png, ora or inkml", trials::out)
        .read::<Vec<RollItem>, _, _>(&p("/roll"), "The pen roll", library::roll)
        .write::<PutRoll, Vec<RollItem>, _, _>("put", &p("/roll"), "Change the pen roll", library::put_roll)
        .read::<Vec<GuideView>, _, _>(&p("/guides"), "Line guides", guides::list)
        .write::<eddymist_check::LineGuide, Created, _, _>("post", &p("/guides"), "A new guide", guides::create)
        .write::<SaveGuide, Created, _, _>("post", &p("/guides/{id}/versions"), "Save: adds a version", guides::save)
        .read::<Vec<GuideView>, _, _>(&p("/guides/{id}/versions"), "Every version of a guide, the newest first", guides::versions)
        .upload::<ModelSheetView, _, _>(&p("/model-sheets"), "Measure the lines of a model sheet", guides::model_sheet)
        .write::<RoleFromLines, eddymist_check::Role, _, _>(
            "post",
            &p("/model-sheets/{sha}/role"),
            "A role made of some of its lines; nothing is kept",
            guides::role_from_lines,
        )
        .write::<NamesPreview, NamesRead, _, _>("post", &p("/names"), "How files are known by their names and a manifest", deliveries::names)
        .read::<Vec<DeliverySummary>, _, _>(&p("/deliveries"), "Deliveries", deliveries::list)
        .write::<NewDelivery, Created, _, _>("post", &p("/deliveries"), "A new delivery", deliveries::create)
        .read::<DeliveryView, _, _>(&p("/deliveries/{id}"), "A delivery with its drawings", deliveries::one)
        .upload_archives::<Vec<FileTaken>, _, _>(&p("/deliveries/{id}/drawings"), "Add drawings; they are checked at once", deliveries::add)
        .write::<SetManifest, (), _, _>("put", &p("/deliveries/{id}/manifest"), "How the drawings are known: by name, manifest, hand", deliveries::set_manifest)
        .read::<(), _, _>(&p("/deliveries/{id}/progress"), "Progress as server-sent events", deliveries::progress)
        .act::<(), _, _>("post", &p("/deliveries/{id}/check"), "Check again, with the guide's current version", deliveries::check_again)
        .act::<(), _, _>("post", &p("/deliveries/{id}/stop"), "Stop the check", deliveries::stop)
        .act::<(), _, _>("post", &p("/deliveries/{id}/go-on"), "Let the check go on", deliveries::go_on)
        .write::<Decide, Vec<i32>, _, _>("post", &p("/deliveries/{id}/decisions"), "Decide on drawings, all or none", deliveries::decide)
        .read::<eddymist_check::LineCheck, _, _>(&p("/deliveries/{id}/line-check"), "The findings as a document", deliveries::document)
        .read::<(), _, _>(&p("/deliveries/{id}/out/{what}"), "findings.csv, overlays-png.zip or overlays-svg.zip", deliveries::out)
        .read::<DrawingView, _, _>(&p("/drawings/{id}"), "A drawing with its weighed lines", drawings::one)
        .write::<Dismiss, Created, _, _>("post", &p("/drawings/{id}/dismissals"), "Call a finding meant", drawings::dismiss)
        .act::<(), _, _>("delete", &p("/drawings/{id}/dismissals/{dismissal}"), "A finding is no longer called meant", drawings::undo_dismissal)
        .write::<NewPin, Created, _, _>("post", &p("/drawings/{id}/pins"), "Pin something", drawings::pin)
        .act::<(), _, _>("delete", &p("/drawings/{id}/pins/{pin}"), "Take a pin out", drawings::unpin)
        .read::<AcrossView, _, _>(
            &p("/drawings/{id}/across/{x}/{y}/{normal}"),
            "The ink across a line at a place in px, the normal in degrees",
            drawings::across,
        )
        .read::<(), _, _>(&p("/drawings/{id}/overlay/{kind}"), "Its lines coloured by how they weigh: png or svg", drawings::overlay)
}
