/**
 * For effects that ask the server: the answer counts only while it is still what the effect is about. An answer that comes after
 * a newer question, or after the component has gone, is dropped. Returns the effect's clean-up.
 */
export const latest = <Answer>(
  asked: Promise<Answer>,
  answered: (answer: Answer) => void,
  failed: (fault: unknown) => void = () => undefined,
): (() => void) => {
  let wanted = true;
  asked.then(
    (answer) => {
      if (wanted) answered(answer);
    },
    (fault: unknown) => {
      if (wanted) failed(fault);
    },
  );
  return () => {
    wanted = false;
  };
};
