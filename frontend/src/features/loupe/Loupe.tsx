import { Loader } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { useNavigate, useParams } from 'react-router';

import { ErrorNote } from '../../shared/ErrorNote';
import { useKeys } from '../../shared/useKeys';
import { Facts } from './Facts';
import classes from './Loupe.module.css';
import { LoupeHead } from './LoupeHead';
import { PageStrip } from './PageStrip';
import { PageView } from './PageView';
import { keyOf, nextWorst, type Point, type Proof, worstFirst, worstPlace, ZOOMS } from './places';
import { loupeQueries, useGentler } from './queries';

/** A copy beside its original, page by page or picture by picture, with a loupe that shows both at the same spot. */
export function Loupe() {
  const { copyId = '' } = useParams();
  const proof = useQuery(loupeQueries.proof(copyId));
  if (proof.isError) {
    return (
      <div className={classes.alone}>
        <ErrorNote>{proof.error.message}</ErrorNote>
      </div>
    );
  }
  if (!proof.data)
    return <Loader role="status" className={classes.wait} aria-label="Opening the proof" />;
  return <OpenLoupe key={copyId} proof={proof.data} />;
}

function OpenLoupe({ proof }: { proof: Proof }) {
  const worst = worstFirst(proof.places)[0];
  const [pageKey, setPageKey] = useState(worst ? keyOf(worst) : '');
  const page = proof.places.find((one) => keyOf(one) === pageKey) ?? worst;
  const [place, setPlace] = useState<Point | null>(null);
  const [zoom, setZoom] = useState(2);
  const [side, setSide] = useState<'original' | 'copy'>('copy');
  const [showsHeat, setShowsHeat] = useState(false);
  const gentler = useGentler(proof);
  const isAgain = useNewCopy(proof, gentler.isSuccess);

  const turnTo = (key: string) => {
    setPageKey(key);
    setPlace(null);
  };
  const toWorst = () => {
    const isThere = place === null;
    const next = isThere ? page : nextWorst(proof.places, pageKey);
    if (!next) return;
    setPageKey(keyOf(next));
    setPlace(worstPlace(next));
  };
  const zoomBy = (step: number) => {
    const at = ZOOMS.indexOf(zoom) + step;
    setZoom(ZOOMS[Math.max(0, Math.min(ZOOMS.length - 1, at))] ?? zoom);
  };
  const flip = () => setSide((now) => (now === 'copy' ? 'original' : 'copy'));
  useKeys({
    f: flip,
    w: toWorst,
    d: () => setShowsHeat((now) => !now),
    '+': () => zoomBy(1),
    '=': () => zoomBy(1),
    '-': () => zoomBy(-1),
    Escape: () => setPlace(null),
  });

  if (!page) return <ErrorNote>Nothing in this document could be compared.</ErrorNote>;
  return (
    <div className={classes.root}>
      <LoupeHead
        proof={proof}
        side={side}
        zoom={zoom}
        showsHeat={showsHeat}
        onFlip={flip}
        onZoom={zoomBy}
        onHeat={() => setShowsHeat(!showsHeat)}
        onWorst={toWorst}
      />
      <div className={classes.parts}>
        <PageStrip proof={proof} current={keyOf(page)} onTurn={turnTo} />
        <PageView
          copyId={proof.copy_id}
          page={page}
          side={side}
          showsHeat={showsHeat}
          place={place}
          zoom={zoom}
          onPlace={setPlace}
        />
        <Facts
          proof={proof}
          page={page}
          again={gentler.isPending ? 0 : isAgain}
          failure={gentler.error?.message}
          onGentler={(parts) => gentler.mutate(parts)}
        />
      </div>
    </div>
  );
}

/** While a copy is made again, how far it is; then its loupe opens by itself. Null before. */
function useNewCopy(proof: Proof, isWaiting: boolean): number | null {
  const navigate = useNavigate();
  const satchel = useQuery({ ...loupeQueries.satchel(proof.satchel), enabled: isWaiting });
  const copy = satchel.data?.documents.find((one) => one.id === proof.document)?.copy;
  const isNew = isWaiting && copy && copy.id !== proof.copy_id;
  const isDone = isNew && copy.state === 'done';
  const hasFailed = isNew && (copy.state === 'failed' || copy.state === 'none');
  useEffect(() => {
    if (isDone) void navigate(`/copies/${copy.id}`, { replace: true });
    if (hasFailed) void navigate(`/satchels/${proof.satchel}`);
  }, [isDone, hasFailed, copy?.id, navigate, proof.satchel]);
  if (!isWaiting) return null;
  return isNew ? (copy.progress ?? 0) : 0;
}
