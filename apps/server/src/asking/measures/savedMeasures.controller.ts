import { Body, Controller, Delete, Get, HttpCode, Param, Post, Put, Req } from '@nestjs/common';
import { DocumentKey, MeasureDocument, type MeasureVersionsAnswer, type SavedMeasuresAnswer } from '@zetopsis/contract';
import { Audited, keyed, named } from '../../ground/guard/action.ts';
import { InPerson, type KnownRequest } from '../../ground/guard/route.ts';
import { MeasuresService } from './measures.service.ts';
import { SavedMeasures } from './savedMeasures.service.ts';

@Controller('api/measures/saved')
export class SavedMeasuresController {
  constructor(
    private readonly saved: SavedMeasures,
    private readonly measures: MeasuresService,
  ) {}

  @Get()
  list(@Req() { reach, person }: KnownRequest): Promise<SavedMeasuresAnswer> {
    const asker = { reach, person };
    return this.saved.list(asker, (text) => this.measures.unitOf(asker, text));
  }
  @InPerson()
  @Audited('keep a measure', named('title'))
  @Post()
  async add(
    @Body({ schema: MeasureDocument }) document: MeasureDocument,
    @Req() { reach, person, who }: KnownRequest,
  ): Promise<{ key: string }> {
    return { key: await this.saved.add({ reach, person }, who, document) };
  }
  @InPerson()
  @Audited('change a measure', keyed)
  @Put(':key')
  @HttpCode(204)
  save(
    @Param('key', { schema: DocumentKey }) key: string,
    @Body({ schema: MeasureDocument }) document: MeasureDocument,
    @Req() { reach, person, who }: KnownRequest,
  ): Promise<void> {
    return this.saved.save({ reach, person }, who, key, document);
  }
  @InPerson()
  @Audited('remove a measure', keyed)
  @Delete(':key')
  @HttpCode(204)
  remove(
    @Param('key', { schema: DocumentKey }) key: string,
    @Req() { reach, person, who }: KnownRequest,
  ): Promise<void> {
    return this.saved.remove({ reach, person }, who, key);
  }
  @Get(':key/versions')
  versions(
    @Param('key', { schema: DocumentKey }) key: string,
    @Req() { reach, person }: KnownRequest,
  ): Promise<MeasureVersionsAnswer> {
    return this.saved.versions({ reach, person }, key);
  }
}
