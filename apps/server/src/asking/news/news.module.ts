import { Module } from '@nestjs/common';
import { LiveModule } from '../../ground/live/live.module.ts';
import { AccessModule } from '../access/access.module.ts';
import { NewsController } from './news.controller.ts';

/** Carries to every open page what changed. */
@Module({ imports: [AccessModule, LiveModule], controllers: [NewsController] })
export class NewsModule {}
