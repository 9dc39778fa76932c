// The drawer: each pen as its own line at true size along one ruler of widths; sought, tagged, sorted, held side by side.

import { useState } from 'react';
import { Form } from 'react-bootstrap';
import { Link } from 'react-router';
import type { Schemas } from '../api/client';
import { PenChange } from '../lanes/PenChange';
import { TrueLine } from '../lanes/PenLineView';
import { usePens } from '../parts/lists';
import { useScreenScale } from '../parts/screen';
import { Empty, Head, Loading, Problem } from '../parts/states';
import { useMayChange } from '../session';
import { ScreenMatch } from './ScreenMatch';
import { WidthRuler } from './WidthRuler';

const ORDERS = [
  ['width', 'thinnest first'],
  ['name', 'by name'],
  ['new', 'newest first'],
] as const;

export function Pens() {
  const pens = usePens();
  const may = useMayChange();
  const screen = useScreenScale();
  const [matching, setMatching] = useState(false);
  const [seek, setSeek] = useState('');
  const [order, setOrder] = useState('width');
  const [held, setHeld] = useState<string[]>([]);
  if (pens.isLoading) return <Loading what="the drawer" />;
  const all = pens.data ?? [];
  const words = seek.toLowerCase().split(/\s+/).filter(Boolean);
  const fits = (p: Schemas['PenSummary']) =>
    words.every((w) => [p.name, p.card.note?.paper ?? '', p.card.note?.ink ?? '', ...p.tags].join(' ').toLowerCase().includes(w));
  const list = all.filter(fits);
  if (order === 'name') list.sort((a, b) => a.name.localeCompare(b.name));
  if (order === 'new') list.sort((a, b) => b.kept_at.localeCompare(a.kept_at));
  const hold = (id: string) => setHeld((h) => (h.includes(id) ? h.filter((x) => x !== id) : [...h.slice(-1), id]));
  const names = held.map((id) => all.find((p) => p.id === id)?.name ?? '');
  return (
    <div className="page">
      <Head
        title={all.length === 1 ? '1 pen in the drawer' : `${all.length} pens in the drawer`}
        says={
          <>
            each drawn by a line of its own {screen.matched ? 'at true size on this screen' : 'at 96 px to the inch'} ·{' '}
            <button type="button" className="btn-word" onClick={() => setMatching(!matching)}>
              {screen.matched ? 'match the screen again' : 'match the screen to a card for true size'}
            </button>
          </>
        }
      >
        {may && (
          <div className="d-flex gap-2">
            <Link to="/pens/new" className="btn btn-paper">
              A few ruled lines
            </Link>
            <Link to="/pens/sheet" className="btn btn-primary">
              Add a pen from a sheet
            </Link>
          </div>
        )}
      </Head>
      <Problem error={pens.error} />
      {matching && <ScreenMatch pxPerMm={screen.pxPerMm} onKeep={screen.keep} onClose={() => setMatching(false)} />}
      {all.length === 0 ? (
        <Empty title="The drawer is empty">
          Print a sampler sheet, ink it and scan it: <Link to="/pens/sheet">add a pen from a sheet</Link>. The quick way: rule a few lines, scan them at 300 dpi
          or more: <Link to="/pens/new">add a pen from ruled lines</Link>. Both can be tried with a simulated pen.
        </Empty>
      ) : (
        <>
          <div className="d-flex gap-2 mb-2 align-items-center flex-wrap">
            <Form.Control
              size="sm"
              aria-label="find a pen"
              placeholder="name, tag, paper or ink"
              value={seek}
              onChange={(e) => setSeek(e.target.value)}
              style={{ maxWidth: 240 }}
            />
            <Form.Select size="sm" aria-label="order of the drawer" value={order} onChange={(e) => setOrder(e.target.value)} style={{ maxWidth: 150 }}>
              {ORDERS.map(([v, label]) => (
                <option key={v} value={v}>
                  {label}
                </option>
              ))}
            </Form.Select>
            <span className="soft tight">
              {held.length === 0 ? 'tick two pens to compare them' : held.length === 1 ? 'tick one more to compare' : `${names[0]} against ${names[1]}`}
            </span>
          </div>
          {held.length === 2 && <PenChange from={held[0] as string} to={held[1] as string} names={[names[0] as string, names[1] as string]} />}
          {list.length === 0 && <div className="notice">No pen has all of “{seek}” in its name, tags, paper or ink.</div>}
          <WidthRuler pens={list} held={held} />
          <div className="lanes">
            {list.map((p) => {
              const efforts = p.card.widths_by_effort ?? [];
              const [lo, hi] = [efforts[0], efforts[efforts.length - 1]];
              const warn = p.card.warnings?.length ?? 0;
              return (
                <div key={p.id} className="d-flex" style={{ borderBottom: '1px solid var(--hairline)', background: 'var(--paper)' }}>
                  <label className="d-flex align-items-center px-2" style={{ minWidth: 32 }}>
                    <input type="checkbox" aria-label={`compare ${p.name}`} checked={held.includes(p.id)} onChange={() => hold(p.id)} />
                  </label>
                  <Link to={`/pens/${p.id}`} className="lane text-decoration-none" style={{ gridTemplateColumns: '230px 1fr 300px', flex: 1, borderBottom: 0 }}>
                    <div className="gutter">
                      <b>{p.name}</b>
                      <span>
                        {p.card.note?.paper || 'paper not noted'}
                        {p.tags.length ? ` · ${p.tags.join(', ')}` : ''}
                      </span>
                    </div>
                    <div className="body d-flex align-items-center px-3" style={{ minHeight: 54, background: '#f4efe4' }}>
                      {p.line && <TrueLine line={p.line} scale={screen.pxPerMm} />}
                    </div>
                    <div className="tight px-3 py-2">
                      <b>
                        {lo && hi && hi !== lo
                          ? `${lo.width_mm.toFixed(2)} – ${hi.width_mm.toFixed(2)} mm`
                          : lo
                            ? `${lo.width_mm.toFixed(3)} mm`
                            : 'no effort noted'}
                      </b>
                      <div className="soft">
                        {efforts.length > 1 ? 'feather to hardest' : 'one effort'} · {p.sheet_number ? 'whole sheet' : 'ruled lines'}
                        {warn ? ` · ${warn} note${warn > 1 ? 's' : ''}` : ''}
                      </div>
                    </div>
                  </Link>
                </div>
              );
            })}
          </div>
        </>
      )}
    </div>
  );
}
