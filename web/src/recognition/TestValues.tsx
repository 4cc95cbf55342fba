export const TestValues = ({
  words,
  values,
  remove,
}: {
  words: string;
  values: readonly string[];
  remove: (value: string) => void;
}) =>
  values.length === 0 ? null : (
    <div className="chips" style={{ marginTop: 6, alignItems: 'center' }}>
      <span className="quiet small">{words}:</span>
      {values.map((value) => (
        <button
          key={value}
          type="button"
          className="chip mono value"
          title="Press to take it out"
          aria-label={`Take ${value} out of the tests`}
          onClick={() => remove(value)}
        >
          {value}
        </button>
      ))}
    </div>
  );
