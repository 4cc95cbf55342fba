import { SHEET_FORMATS, type SheetFormat } from '@idrel/core/catalog';
import { Button, Menu } from '@mantine/core';
import { useNavigate } from 'react-router';
import { saveFile } from '../app/files.ts';
import { sayProblem } from '../app/say.ts';
import { useLazyExportAssetsQuery } from './sheetsApi.ts';

/** What is found as a sheet, and a sheet back. */
export function SheetMenu({ filter, under }: { filter: string; under: string }) {
  const [make] = useLazyExportAssetsQuery();
  const navigate = useNavigate();
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
          Sheet
        </Button>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Label>What is found, to be edited</Menu.Label>
        {(Object.keys(SHEET_FORMATS) as SheetFormat[]).map((format) => (
          <Menu.Item key={format} onClick={() => void save(format)}>
            As {SHEET_FORMATS[format]}
          </Menu.Item>
        ))}
        <Menu.Divider />
        <Menu.Item onClick={() => navigate('/catalog/sheet')}>Take a sheet back</Menu.Item>
      </Menu.Dropdown>
    </Menu>
  );
}
