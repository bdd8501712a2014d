import { Body, Controller, Delete, Get, HttpCode, Param, Post, Req } from '@nestjs/common';
import { RowNumber, SavedViewInput, type SavedViewsAnswer } from '@zetopsis/contract';
import { Audited, named, numbered } from '../../ground/guard/action.ts';
import { InPerson, type KnownRequest } from '../../ground/guard/route.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { OwnersService } from '../owners/owners.service.ts';
import { ViewsStore } from './views.store.ts';

const MOST = 100;

/** Views that people keep, for themselves or for a team. What they show is checked when it is asked for. */
@InPerson()
@Controller('api/views')
export class ViewsController {
  constructor(
    private readonly views: ViewsStore,
    private readonly owners: OwnersService,
  ) {}

  @Get()
  async list(@Req() { person }: KnownRequest): Promise<SavedViewsAnswer> {
    const teams = this.owners.teamsOf(person.name);
    const rows = await this.views.list(
      person.id,
      teams.map(({ key }) => key),
    );
    return {
      views: rows.map(({ personId, ...view }) => ({ ...view, own: personId === person.id })),
      teams: teams.map(({ key, name }) => ({ key, name })),
    };
  }
  @Audited('keep a view', named('name'))
  @Post()
  async add(
    @Body({ schema: SavedViewInput }) input: SavedViewInput,
    @Req() request: KnownRequest,
  ): Promise<SavedViewsAnswer> {
    const { person } = request;
    if (input.team !== null && !this.owners.teamsOf(person.name).some(({ key }) => key === input.team))
      throw new Refusal('invalid', 'You are in no such team.', [{ path: 'team', text: 'not one of your teams' }]);
    if ((await this.views.count(person.id)) >= MOST)
      throw new Refusal('conflict', `You keep ${MOST} views already. Remove one first.`);
    await this.views.add(person.id, input);
    return this.list(request);
  }
  @Audited('remove a view', numbered)
  @Delete(':id')
  @HttpCode(204)
  async remove(@Param('id', { schema: RowNumber }) id: number, @Req() { person }: KnownRequest): Promise<void> {
    if (!(await this.views.remove(person.id, id))) throw new Refusal('notFound', 'You keep no such view (any more).');
  }
}
