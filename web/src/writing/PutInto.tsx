import { sayDone, sayProblem } from '../app/say.ts';
import { useGuideQuery, useSaveGuideMutation } from './writingApi.ts';

/** Puts what somebody said into the guide of the asset that it is about, at its end. */
export function PutInto({ assetId, text }: { assetId: string; text: string }) {
  const { data: guide } = useGuideQuery(assetId);
  const [save, { isLoading }] = useSaveGuideMutation();
  const put = () => {
    if (!guide || isLoading) return;
    const { text: before, version } = guide;
    save({ id: assetId, version, text: before.trim() === '' ? text : `${before.trimEnd()}\n\n${text}` })
      .unwrap()
      .then(
        (after) =>
          sayDone('It stands at the end of the guide now.', () =>
            save({ id: assetId, version: after.version, text: before }),
          ),
        (error: unknown) => sayProblem(error, 'The guide was not changed'),
      );
  };
  return (
    <button type="button" className="linkish" onClick={put}>
      Put it into the guide
    </button>
  );
}
