// What a lead does for a member's account: a link to a new password, shut it, erase it, take them out.
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { api, type Schemas, take } from '../api/client';
import { CopyLink } from '../parts/CopyLink';
import { Problem } from '../parts/states';
import { useOpen } from '../session';

type Act = 'out' | 'reset' | 'shut' | 'open' | 'erase';

const SURE: Record<Act, (name: string) => string> = {
  out: (n) => `Remove ${n}`,
  reset: (n) => `Make link for ${n}`,
  shut: (n) => `Disable ${n}’s account`,
  open: (n) => `Reopen ${n}’s account`,
  erase: (n) => `Erase ${n}’s name, address and password for good`,
};

export function MemberAccount({ member, lead, onDone }: { member: Schemas['MemberView']; lead: boolean; onDone: () => void }) {
  const { production } = useOpen();
  const [sure, setSure] = useState<Act | null>(null);
  const [link, setLink] = useState('');
  const params = { path: { production: production.id, member: member.id } };
  const go = useMutation({
    mutationFn: async (act: Act) => {
      if (act === 'out') await take(api.DELETE('/api/v1/productions/{production}/members/{member}', { params }));
      else if (act === 'shut') await take(api.PUT('/api/v1/productions/{production}/members/{member}/disabled', { params }));
      else if (act === 'open') await take(api.DELETE('/api/v1/productions/{production}/members/{member}/disabled', { params }));
      else if (act === 'erase') await take(api.DELETE('/api/v1/productions/{production}/members/{member}/account', { params }));
      else setLink((await take(api.POST('/api/v1/productions/{production}/members/{member}/reset', { params }))).link);
    },
    onSettled: () => {
      setSure(null);
      onDone();
    },
  });
  if (sure)
    return (
      <span className="d-inline-flex gap-3">
        <button type="button" className="btn-word stop-word" disabled={go.isPending} onClick={() => go.mutate(sure)}>
          {member.you ? 'Leave this production' : SURE[sure](member.name)}
        </button>
        <button type="button" className="btn-word" onClick={() => setSure(null)}>
          Cancel
        </button>
      </span>
    );
  const word = (act: Act, says: string) => (
    <button type="button" className="btn-word" onClick={() => setSure(act)}>
      {says}
    </button>
  );
  return (
    <>
      <span className="d-inline-flex gap-3 justify-content-end">
        {lead && !member.you && (
          <>
            {!member.disabled && word('reset', 'New password')}
            {member.disabled ? word('open', 'Reopen account') : word('shut', 'Disable account')}
            {word('erase', 'Erase account')}
          </>
        )}
        {word('out', member.you ? 'Leave production' : 'Remove member')}
      </span>
      <Problem error={go.error} />
      {link && (
        <div className="text-start mt-1">
          <CopyLink
            label={`the password link for ${member.name}`}
            link={link}
            says="Send this link to the member. It is shown only once and works for a day:"
          />
        </div>
      )}
    </>
  );
}
