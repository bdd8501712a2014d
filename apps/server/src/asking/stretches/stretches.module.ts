import { Module } from '@nestjs/common';
import { ConfigurationModule } from '../../ground/configuration/configuration.module.ts';
import { OwnersModule } from '../owners/owners.module.ts';
import { StretchesController } from './stretches.controller.ts';
import { StretchesService } from './stretches.service.ts';

@Module({
  imports: [ConfigurationModule, OwnersModule],
  controllers: [StretchesController],
  providers: [StretchesService],
  exports: [StretchesService],
})
export class StretchesModule {}
