import { useEffect, useState } from 'react';
import { Trouble } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';

interface Shape {
  type?: string;
  enum?: unknown[];
  properties?: Record<string, Shape>;
  items?: Shape;
  format?: string;
  description?: string;
  required?: string[];
}
interface Operation {
  operationId: string;
  tags: string[];
  summary: string;
  description?: string;
  parameters: { name: string; in: string; required: boolean; schema: Shape }[];
  requestBody?: { content: Record<string, { schema: Shape }> };
  responses: Record<string, { description: string }>;
}
interface Description {
  paths: Record<string, Record<string, Operation>>;
}

const shapeInWords = (shape: Shape): string =>
  shape.enum
    ? shape.enum.map(String).join(' | ')
    : shape.type === 'array'
      ? `list of ${shapeInWords(shape.items ?? {})}`
      : (shape.format ?? shape.type ?? 'any');

/** The API as its own description tells it. */
export function Component() {
  useCrumbs({ text: 'Settings', to: '/settings' }, { text: 'API reference' });
  const [api, setApi] = useState<Description>();
  const [error, setError] = useState<unknown>();
  useEffect(() => {
    fetch('/api/v1/openapi.json')
      .then((answer) => answer.json() as Promise<Description>)
      .then(setApi, setError);
  }, []);
  if (error) return <Trouble error={error} what="The description of the API cannot be read" />;
  const operations = Object.entries(api?.paths ?? {}).flatMap(([path, methods]) =>
    Object.entries(methods).map(([method, operation]) => ({ path, method, operation })),
  );
  const areas = [...new Set(operations.map(({ operation }) => operation.tags[0] ?? ''))];
  return (
    <div className="page">
      <h1>API reference</h1>
      <p className="quiet">
        Made from the schemas that check each request. Changes carry the token that GET /api/v1/session gives, as
        X-Idrel-Token; edits carry the version seen, as If-Match. Errors are problem+json with detail and mend.
      </p>
      {areas.map((area) => (
        <section key={area} style={{ marginTop: 22 }}>
          <h2>{area}</h2>
          {operations
            .filter(({ operation }) => operation.tags[0] === area)
            .map(({ path, method, operation }) => (
              <details
                key={operation.operationId}
                style={{ borderBottom: '1px solid var(--hairline)', padding: '6px 0' }}
              >
                <summary>
                  <span className="mono">
                    <strong>{method.toUpperCase()}</strong> {path}
                  </span>{' '}
                  <span className="quiet">{operation.summary}</span>
                </summary>
                <div className="stack" style={{ padding: '8px 16px' }}>
                  {operation.description ? <p>{operation.description}</p> : null}
                  {operation.parameters.length > 0 ? (
                    <Fields
                      title="Parameters"
                      fields={operation.parameters.map((parameter) => [
                        parameter.name,
                        parameter.schema,
                        parameter.required,
                        parameter.in,
                      ])}
                    />
                  ) : null}
                  {operation.requestBody ? (
                    <Fields
                      title="Body"
                      fields={Object.entries(
                        Object.values(operation.requestBody.content)[0]?.schema.properties ?? {},
                      ).map(([name, shape]) => [
                        name,
                        shape,
                        Object.values(operation.requestBody?.content ?? {})[0]?.schema.required?.includes(name) ??
                          false,
                        'body',
                      ])}
                    />
                  ) : null}
                  <p>
                    <span className="quiet">Answers: </span>
                    {operation.responses['200']?.description}
                  </p>
                </div>
              </details>
            ))}
        </section>
      ))}
    </div>
  );
}

function Fields({
  title,
  fields,
}: {
  title: string;
  fields: [name: string, shape: Shape, required: boolean, place: string][];
}) {
  return (
    <div>
      <h3>{title}</h3>
      <table className="plain">
        <tbody>
          {fields.map(([name, shape, required, place]) => (
            <tr key={`${place}-${name}`}>
              <td className="mono">{name}</td>
              <td className="quiet">{place}</td>
              <td>{shapeInWords(shape)}</td>
              <td>{required ? 'required' : ''}</td>
              <td>{shape.description ?? ''}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
