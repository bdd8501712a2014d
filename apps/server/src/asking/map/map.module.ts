import { Module } from '@nestjs/common';
import { MeasuresModule } from '../measures/measures.module.ts';
import { OwnersModule } from '../owners/owners.module.ts';
import { MapController } from './map.controller.ts';
import { MapService } from './map.service.ts';

@Module({ imports: [MeasuresModule, OwnersModule], controllers: [MapController], providers: [MapService] })
export class MapModule {}
