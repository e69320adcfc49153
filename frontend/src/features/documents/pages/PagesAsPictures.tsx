import { Button, Checkbox, NativeSelect, NumberInput, Progress } from '@mantine/core';
import { IconDownload, IconPhoto } from '@tabler/icons-react';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { choicesQuery, optionsOf } from '../../../api/choices';
import { api, dataOf, type Schemas } from '../../../api/client';
import { ErrorNote } from '../../../shared/ErrorNote';
import { countText, sizeText } from '../../../shared/sizes';
import { waitText } from '../../../shared/waits';
import { benchKeys, type Document, benchQueries } from '../../satchel';
import classes from './PagesAsPictures.module.css';

type Wanted = Required<Schemas['RasterRequestRequest']>;
type Raster = Schemas['Raster'];

/** Below, nobody reads print. */
const READABLE_PPI = 120;

interface PagesAsPicturesProps {
  document: Document;
  /** The preset's treatment of pages. */
  usual: Schemas['RasterTreatment'];
}

/** Pages of a document as a TIFF, for archives and portals that want pictures. */
export function PagesAsPictures({ document, usual }: PagesAsPicturesProps) {
  const [isOpen, setIsOpen] = useState(false);
  const rasters = useQuery(benchQueries.rasters(document.id));
  const raster = rasters.data?.[0];
  return (
    <section className={classes.root} aria-label={`Pages of ${document.name} as pictures`}>
      {isOpen || raster ? (
        <Making document={document} usual={usual} raster={raster} />
      ) : (
        <Button
          variant="default"
          size="compact-sm"
          leftSection={<IconPhoto size={15} />}
          onClick={() => setIsOpen(true)}
        >
          Pages as pictures (TIFF)
        </Button>
      )}
    </section>
  );
}

interface MakingProps extends PagesAsPicturesProps {
  raster: Raster | undefined;
}

function Making({ document, usual, raster }: MakingProps) {
  const [changed, setChanged] = useState<Partial<Wanted>>({});
  const wanted = { ...usual, is_each: false, may_blur_text: false, ...changed };
  const { data: choices } = useQuery(choicesQuery());
  const client = useQueryClient();
  const path = { params: { path: { id: document.id } } };
  const make = useMutation({
    mutationFn: () => dataOf(api.POST('/api/documents/{id}/rasters', { ...path, body: wanted })),
    onSettled: () => client.invalidateQueries({ queryKey: benchKeys.rasters(document.id) }),
  });
  const change = (changes: Partial<Wanted>) => setChanged({ ...changed, ...changes });
  const isBusy = raster?.state === 'waiting' || raster?.state === 'working';
  const isBitonal = wanted.colours === 'bitonal';
  return (
    <>
      <h2>Pages as pictures (TIFF)</h2>
      <div className={classes.choices}>
        <NativeSelect
          label="Colours"
          size="xs"
          data={optionsOf(choices?.page_colours)}
          value={wanted.colours}
          onChange={(event) => change({ colours: event.currentTarget.value as Wanted['colours'] })}
        />
        <NumberInput
          label="Resolution, ppi"
          size="xs"
          min={20}
          max={1200}
          allowDecimal={false}
          value={wanted.ppi}
          onChange={(ppi) => typeof ppi === 'number' && change({ ppi })}
          className={classes.number}
        />
        {isBitonal && (
          <NativeSelect
            label="Threshold"
            size="xs"
            data={optionsOf(choices?.bitonal_methods)}
            value={wanted.divide}
            onChange={(event) => change({ divide: event.currentTarget.value as Wanted['divide'] })}
          />
        )}
        {isBitonal && wanted.divide === 'fixed' && (
          <NumberInput
            label="Darker is black"
            size="xs"
            min={1}
            max={255}
            value={wanted.threshold}
            onChange={(threshold) => typeof threshold === 'number' && change({ threshold })}
            className={classes.number}
          />
        )}
      </div>
      <div className={classes.checks}>
        {isBitonal && (
          <Checkbox
            size="xs"
            label="Keep pages with photos in greyscale"
            checked={wanted.keeps_photos_grey}
            onChange={(event) => change({ keeps_photos_grey: event.currentTarget.checked })}
          />
        )}
        <Checkbox
          size="xs"
          label="A file for each page"
          checked={wanted.is_each}
          onChange={(event) => change({ is_each: event.currentTarget.checked })}
        />
        {wanted.ppi < READABLE_PPI && (
          <Checkbox
            size="xs"
            label={`Print may become unreadable (below ${READABLE_PPI} ppi)`}
            checked={wanted.may_blur_text}
            onChange={(event) => change({ may_blur_text: event.currentTarget.checked })}
          />
        )}
      </div>
      {isBitonal && (
        <p className={classes.told}>
          In black and white, letters lose their smooth edges. The region with the largest loss is
          shown.
        </p>
      )}
      {make.error && <ErrorNote>{make.error.message}</ErrorNote>}
      <Button
        size="compact-md"
        variant={raster?.state === 'done' ? 'default' : 'filled'}
        loading={make.isPending || isBusy}
        onClick={() => make.mutate()}
      >
        {raster ? 'Make them again' : 'Make the pages'}
      </Button>
      {isBusy && <Coming raster={raster} />}
      {raster?.state === 'failed' && <ErrorNote>{raster.error_message}</ErrorNote>}
      {raster?.state === 'done' && <Made raster={raster} />}
    </>
  );
}

function Coming({ raster: { progress, seconds_left } }: { raster: Raster }) {
  const wait = seconds_left == null ? '' : `, ${waitText(seconds_left)}`;
  return (
    <div className={classes.coming}>
      <span>
        Drawing pages, {Math.round(progress * 100)} %{wait}
      </span>
      <Progress value={Math.max(2, progress * 100)} size="sm" aria-label="Drawing pages" />
    </div>
  );
}

const MOST_LISTED = 12;

function Made({ raster }: { raster: Raster }) {
  const worst = raster.pages.filter((page) => page.has_place && page.remark)[0];
  const place = worst ?? raster.pages.find((page) => page.has_place);
  const listed = raster.pages.slice(0, MOST_LISTED);
  return (
    <div className={classes.made}>
      <div>
        <Button
          component="a"
          href={`/api/rasters/${raster.id}/file`}
          size="compact-md"
          leftSection={<IconDownload size={16} />}
        >
          {raster.file_name}, {sizeText(raster.size_bytes)}
        </Button>
        <table className={classes.pages}>
          <thead>
            <tr>
              <th scope="col">Page</th>
              <th scope="col">Result</th>
              <th scope="col">Weight</th>
              <th scope="col">Remarks</th>
            </tr>
          </thead>
          <tbody>
            {listed.map((page) => (
              <tr key={page.page}>
                <td>{page.page}</td>
                <td>{page.kind}</td>
                <td className={classes.weight}>{sizeText(page.size_bytes)}</td>
                <td>{page.remark}</td>
              </tr>
            ))}
          </tbody>
        </table>
        {raster.pages.length > MOST_LISTED && (
          <p className={classes.told}>
            and {countText(raster.pages.length - MOST_LISTED, 'page')} more
          </p>
        )}
      </div>
      {place && (
        <div className={classes.place}>
          {(['before', 'after'] as const).map((side) => (
            <figure key={side}>
              <img
                src={`/api/rasters/${raster.id}/place?page=${place.page}&side=${side}`}
                alt={`Page ${place.page} where it lost most, ${side}`}
              />
              <figcaption>
                {side === 'before' ? `Page ${place.page}, as drawn` : 'As it is now'}
              </figcaption>
            </figure>
          ))}
        </div>
      )}
    </div>
  );
}
