import { Input } from './Input'
/** A secret that is told this once: to be copied now. */
export function Once({ says, secret }: { says: string; secret: string }) {
  return (
    <p role="status" className="my-2 border-l-4 border-wood bg-plate px-3 py-2 text-small">
      {says} It is not shown again:
      <Input
        readOnly
        aria-label="The secret, to be copied"
        value={secret}
        onFocus={(event) => event.currentTarget.select()}
        className="mono mt-1 block w-full max-w-[520px]"
      />
    </p>
  )
}
