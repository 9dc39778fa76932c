// One line guide, saved or new: what is changed on it, undone, saved as a version with a note; what somebody else saved meanwhile.
import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { Button } from 'react-bootstrap';
import { api, type Schemas, take } from '../api/client';
import { ArchiveIt } from '../parts/ArchiveIt';
import { Conflict, Differences } from '../parts/Conflict';
import { useGuides, useGuideVersions } from '../parts/lists';
import { otherSide } from '../parts/stale';
import { day, Head, Problem } from '../parts/states';
import { useOpen } from '../session';
import { GuideRules } from './GuideRules';
import { GuideVersions } from './GuideVersions';
import { guideChanges } from './guideChanges';
import { ModelSheet } from './ModelSheet';
import { RegionsLeftOut } from './RegionsLeftOut';
import { RoleTable } from './RoleTable';
import { Unsaved } from './Unsaved';

type Guide = Schemas['LineGuide'];
type Left = { guide: Guide; from: number };

/** Unsaved work that was left in this browser; what an older page left knew no version. */
function left(text: string | null, current: number): Left | null {
  if (!text) return null;
  const v = JSON.parse(text) as Partial<Left> & Guide;
  return v.guide ? { guide: v.guide, from: v.from ?? 0 } : { guide: v as Guide, from: current };
}

/** Where unsaved work on a guide is left in this browser. */
export const draftKey = (production: string, id: string | undefined) => `guide-${production}-${id ?? 'new'}`;

/** The guide as it was in the version that unsaved work began from. */
function useGuideVersion(kept: Schemas['GuideView'] | undefined, from: number): Guide | null {
  const versions = useGuideVersions(kept?.id, kept?.version, from > 0 && from !== kept?.version);
  return versions.data?.find((v) => v.version === from)?.guide ?? null;
}

type Props = {
  /** As it is saved; none: it is new, and begins as this. */
  kept: Schemas['GuideView'] | undefined;
  first: Guide;
  onSaved: (id: string) => void;
};

export function GuideEditor({ kept, first, onSaved }: Props) {
  const { production } = useOpen();
  const lead = production.part === 'lead';
  const params = { path: { production: production.id } };
  const client = useQueryClient();
  const guides = useGuides();
  const key = draftKey(production.id, kept?.id);
  const [start] = useState(() => left(localStorage.getItem(key), kept?.version ?? 0));
  const [guide, setGuide] = useState<Guide>(() => start?.guide ?? kept?.guide ?? first);
  // The version that the work on the page began from, and another's that was saved since.
  const [from, setFrom] = useState(() => start?.from ?? kept?.version ?? 0);
  const [note, setNote] = useState('');
  const [busy, setBusy] = useState(false);
  const [past, setPast] = useState<Guide[]>([]);
  const [error, setError] = useState<unknown>(null);
  const [sheet, setSheet] = useState(false);
  const unsaved = JSON.stringify(guide) !== JSON.stringify(kept?.guide ?? null);
  // What somebody saved meanwhile and what is on the page are the same.
  useEffect(() => {
    if (kept && !unsaved && from !== kept.version) setFrom(kept.version);
  }, [kept, unsaved, from]);
  useEffect(() => {
    if (unsaved) localStorage.setItem(key, JSON.stringify({ guide, from }));
    else localStorage.removeItem(key);
  }, [guide, from, unsaved, key]);
  const began = useGuideVersion(kept, from);
  const clash = !!kept && unsaved && from !== kept.version;
  const change = (g: Guide) => {
    setPast([...past, guide]);
    setGuide(g);
  };
  const save = async (over: number) => {
    setError(null);
    setBusy(true);
    try {
      let made = '';
      if (kept)
        await take(
          api.POST('/api/v1/productions/{production}/guides/{id}/versions', {
            params: { path: { production: production.id, id: kept.id } },
            body: { guide, from_version: over, note },
          }),
        );
      else made = (await take(api.POST('/api/v1/productions/{production}/guides', { params, body: guide }))).id;
      localStorage.removeItem(key);
      // What is kept is what the server says: it fills in what was left out.
      const again = await guides.refetch();
      const now = again.data?.find((g) => g.id === (kept?.id ?? made));
      setGuide(now?.guide ?? guide);
      setFrom(now?.version ?? over + 1);
      setPast([]);
      setNote('');
      if (made) onSaved(made);
    } catch (e) {
      // Where somebody saved meanwhile, both are shown once theirs is here.
      if (!otherSide(e)) setError(e);
      await client.invalidateQueries({ queryKey: ['guides'] });
    }
    setBusy(false);
  };
  return (
    <>
      <Head
        title={guide.name}
        rename={{ name: guide.name, label: 'the line guide', may: lead, onName: (name) => change({ ...guide, name }) }}
        says={
          <>
            page {guide.page.width_px}×{guide.page.height_px} px · {guide.finish} finish ·{' '}
            {kept ? `version ${kept.version} by ${kept.by}, ${day(kept.at)}` : 'not saved yet'}
            {unsaved && <b style={{ color: 'var(--warn)' }}> · changed, not saved</b>}
          </>
        }
      >
        <Button
          variant="paper"
          disabled={!past.length}
          onClick={() => {
            setGuide(past[past.length - 1] ?? guide);
            setPast(past.slice(0, -1));
          }}
        >
          Undo
        </Button>
        <Button disabled={!unsaved || !lead || clash || busy} onClick={() => save(from)}>
          Save as version {(kept?.version ?? 0) + 1}
        </Button>
      </Head>
      <Problem error={error} />
      {lead && unsaved && kept && !clash && <Unsaved kept={kept} began={began ?? kept.guide} guide={guide} note={note} onNote={setNote} />}
      {clash && kept && (
        <Conflict
          what="the line guide"
          by={kept.by}
          busy={busy}
          mine={<Differences all={began ? guideChanges(began, guide) : guideChanges(kept.guide, guide)} />}
          theirs={<Differences all={began ? guideChanges(began, kept.guide) : []} />}
          onMine={() => save(kept.version)}
          onTheirs={() => {
            setPast([...past, guide]);
            setGuide(kept.guide);
            setFrom(kept.version);
          }}
        />
      )}
      {!lead && <div className="notice">Only a lead of this production may change the guide.</div>}
      <div className="guide-and-versions">
        <div>
          <RoleTable guide={guide} lead={lead} onChange={change} />
          {lead && (
            <Button variant="paper" size="sm" className="mt-2 ms-2" aria-expanded={sheet} onClick={() => setSheet(!sheet)}>
              Roles from a model sheet
            </Button>
          )}
          {sheet && lead && <ModelSheet guide={guide} onRole={(r) => change({ ...guide, roles: [...guide.roles, r] })} />}
          <GuideRules guide={guide} lead={lead} onChange={change} />
          <RegionsLeftOut key={past.length} guide={guide} lead={lead} onChange={change} />
        </div>
        {kept && <GuideVersions id={kept.id} current={kept.version} guide={guide} onTake={lead ? change : undefined} />}
      </div>
      {kept && (
        <div className="mt-3">
          <ArchiveIt kind="guides" id={kept.id} name={kept.guide.name} />
        </div>
      )}
    </>
  );
}
