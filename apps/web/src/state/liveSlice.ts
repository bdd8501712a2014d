import { createSlice, type PayloadAction } from '@reduxjs/toolkit';

export interface Live {
  /** Null while the stream of news is open. */
  readonly lostSince: number | null;
  /** The server's clock minus this page's, in ms, as the newest news told it. */
  readonly clockOffset: number;
}
const initialState: Live = { lostSince: null, clockOffset: 0 };

/** Only what neither the server nor the address holds. */
const liveSlice = createSlice({
  name: 'live',
  initialState,
  reducers: {
    streamOpened: (state) => ({ ...state, lostSince: null }),
    streamLost: (state, { payload }: PayloadAction<number>) => ({ ...state, lostSince: state.lostSince ?? payload }),
    newsCame: (state, { payload }: PayloadAction<number>) =>
      Math.abs(state.clockOffset - payload) < 1500 ? state : { ...state, clockOffset: payload },
  },
});
export const { streamOpened, streamLost, newsCame } = liveSlice.actions;
export const liveReducer = liveSlice.reducer;
