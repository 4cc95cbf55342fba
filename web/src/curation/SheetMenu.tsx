import { SHEET_FORMATS, type SheetFormat } from '@idrel/core/catalog';
import { Button, Menu } from '@mantine/core';
import { useNavigate } from 'react-router';
import { useSessionQuery } from '../app/api.ts';
import { saveFile } from '../app/files.ts';
import { sayProblem } from '../app/say.ts';
import { outsOfFound } from '../exchange/index.ts';
import { useLazyExportAssetsQuery } from './sheetsApi.ts';

/** What is found as a sheet, and a sheet back. */
export function SheetMenu({ filter, under }: { filter: string; under: string }) {
  const [make] = useLazyExportAssetsQuery();
  const navigate = useNavigate();
  // The browser asks for a file as who is signed in, whoever they look as.
  const as = useSessionQuery().data?.lookingAs ?? null;
  const save = async (format: SheetFormat) => {
    try {
      saveFile(await make({ format, filter, ...(under ? { under } : {}) }).unwrap());
    } catch (error) {
      sayProblem(error, 'The sheet was not made');
    }
  };
  return (
    <Menu position="bottom-start" shadow="none">
      <Menu.Target>
        <Button variant="subtle" px={6} size="compact-xs">
          Take out
        </Button>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Label>What is found, to be edited</Menu.Label>
        {(Object.keys(SHEET_FORMATS) as SheetFormat[]).map((format) => (
          <Menu.Item key={format} onClick={() => void save(format)}>
            As {SHEET_FORMATS[format]}
          </Menu.Item>
        ))}
        {as === null && (
          <>
            <Menu.Divider />
            <Menu.Label>What is found, in an open format</Menu.Label>
            {outsOfFound(filter, under).map((out) => (
              <Menu.Item key={out.as} component="a" href={out.href} download title={out.about}>
                As DCAT ({out.name})
              </Menu.Item>
            ))}
          </>
        )}
        <Menu.Divider />
        <Menu.Item onClick={() => navigate('/catalog/sheet')}>Take a sheet back</Menu.Item>
      </Menu.Dropdown>
    </Menu>
  );
}
