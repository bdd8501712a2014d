import type { EndpointAnswer } from '@zetopsis/contract';
import { Confirm } from '../../drawing/Confirm.tsx';
import { FailureText } from '../../forms/FailureText.tsx';
import { useDependantsQuery, useRemoveEndpointMutation } from '../../state/givenApi.ts';
import { Dependants } from './Dependants.tsx';
import { endpointName } from './sourcesModel.ts';

/** Removes what is read no more, with all that was read from it. */
export function RemoveEndpoint({ endpoint, close }: { endpoint: EndpointAnswer; close: () => void }) {
  const { data } = useDependantsQuery(endpoint.id, { refetchOnMountOrArgChange: true });
  const [remove, { isLoading, error }] = useRemoveEndpointMutation();
  if (data === undefined) return null;
  if (data.stays !== null) return <p className="mt-2 text-sm text-soft">{data.stays}</p>;
  return (
    <div className="mt-2">
      <Confirm
        trigger="remove for good"
        triggerClass="button text-critical"
        title={`Remove ${endpointName(endpoint)} for good?`}
        text="All that was read from it is deleted with it, and does not come back. As long as it is only retired, what was read stays until its retention ends."
        keep="Keep it"
      >
        {(dismiss) => (
          <>
            <Dependants id={endpoint.id} />
            <button
              type="button"
              className="button text-critical"
              disabled={isLoading}
              onClick={async () => {
                const done = await remove(endpoint.id);
                dismiss();
                if (!done.error) close();
              }}
            >
              Remove it and its history
            </button>
          </>
        )}
      </Confirm>
      <FailureText error={error} className="mt-1 text-sm" />
    </div>
  );
}
