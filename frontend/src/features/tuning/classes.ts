import type { Schemas } from '../../api/client';

export type Treatment = Schemas['Treatment'];
export type PictureTreatment = Schemas['PictureTreatment'];
export type PictureClass = Schemas['PictureClassEnum'];
