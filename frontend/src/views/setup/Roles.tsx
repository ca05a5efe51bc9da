import { useMutation, useQuery } from '@tanstack/react-query'
import { answered, client, type Schemas } from '../../api/client'
import { sitesQuery } from '../../api/queries'
import { Asked } from '../../parts/Asked'
import { Choice } from '../../parts/Choice'
import { Told } from '../../parts/Told'

export const ROLES = ['editor', 'lead', 'reviewer', 'viewer', 'owner', 'none']
const AS_EVERYWHERE = 'as everywhere'

/** What a person may do: everywhere, and at single sites otherwise. `none` is for who works at single sites only. */
export function Roles({
  account,
  onDone,
}: {
  account: Schemas['AccountOut']
  onDone: () => Promise<unknown>
}) {
  const shelf = useQuery(sitesQuery)
  const give = useMutation({
    mutationFn: ({ role, site }: { role: string | null; site: string | null }) =>
      site === null
        ? answered(
            client.PUT('/api/people/{person_id}/role', {
              params: { path: { person_id: account.id } },
              body: { role },
            }),
          )
        : answered(
            client.PUT('/api/people/{person_id}/role/{site}', {
              params: { path: { person_id: account.id, site } },
              body: { role },
            }),
          ),
    onSettled: onDone,
  })
  return (
    <div className="grid gap-1">
      <Asked says="Role everywhere">
        {(id) => (
          <Choice
            id={id}
            value={account.role}
            disabled={give.isPending}
            onChoose={(value) => give.mutate({ role: value, site: null })}
            className="w-full"
          >
            {ROLES.map((role) => (
              <option key={role}>{role}</option>
            ))}
          </Choice>
        )}
      </Asked>
      {shelf.data?.map((site) => (
        <Asked key={site.key} says={`At ${site.name}`}>
          {(id) => (
            <Choice
              id={id}
              value={account.at_sites[site.key] ?? AS_EVERYWHERE}
              disabled={give.isPending}
              onChoose={(value) =>
                give.mutate({
                  role: value === AS_EVERYWHERE ? null : value,
                  site: site.key,
                })
              }
              className="w-full"
            >
              <option>{AS_EVERYWHERE}</option>
              {ROLES.map((role) => (
                <option key={role}>{role}</option>
              ))}
            </Choice>
          )}
        </Asked>
      ))}
      <Told error={give.error ?? shelf.error} />
    </div>
  )
}
