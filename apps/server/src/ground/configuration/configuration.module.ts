import { Module } from '@nestjs/common';
import { LiveModule } from '../live/live.module.ts';
import { ConfigurationController } from './configuration.controller.ts';
import { ConfigurationService } from './configuration.service.ts';
import { DocumentsStore } from './documents.store.ts';

@Module({
  imports: [LiveModule],
  controllers: [ConfigurationController],
  providers: [ConfigurationService, DocumentsStore],
  exports: [ConfigurationService],
})
export class ConfigurationModule {}
