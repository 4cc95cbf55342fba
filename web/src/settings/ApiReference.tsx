import { Box, Stack } from '@mantine/core';
import { useEffect, useState } from 'react';
import { Listing } from '../marks/Listing.tsx';
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
        <Box component="section" key={area} mt={22}>
          <h2>{area}</h2>
          {operations
            .filter(({ operation }) => operation.tags[0] === area)
            .map(({ path, method, operation }) => (
              <details key={operation.operationId} className="item">
                <summary>
                  <span className="mono">
                    <strong>{method.toUpperCase()}</strong> {path}
                  </span>{' '}
                  <span className="quiet">{operation.summary}</span>
                </summary>
                <Stack py={8} px={16}>
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
                </Stack>
              </details>
            ))}
        </Box>
      ))}
    </div>
  );
}

function Fields({
  title,
  fields,
}: {
  title: string;
  fields: [name: string, shape: Shape, required: boolean, within: string][];
}) {
  return (
    <div>
      <h3>{title}</h3>
      <Listing>
        {fields.map(([name, shape, required, within]) => (
          <tr key={`${within}-${name}`}>
            <td className="mono">{name}</td>
            <td className="quiet">{within}</td>
            <td>{shapeInWords(shape)}</td>
            <td>{required ? 'required' : ''}</td>
            <td>{shape.description ?? ''}</td>
          </tr>
        ))}
      </Listing>
    </div>
  );
}
