/** The name of a node in letters that can be read from afar: there it stands in place of all else. */
export const FarName = ({ name }: { name: string }) => (
  <div className="far-name" aria-hidden="true">
    {name}
  </div>
);
