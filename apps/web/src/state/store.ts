import { configureStore, type Middleware } from '@reduxjs/toolkit';
import { useDispatch, useSelector } from 'react-redux';
import { api } from './api.ts';
import { liveReducer } from './liveSlice.ts';

/** A session that ended is asked for again, which leads to the sign-in page. */
const sessionEnd: Middleware = (store) => (next) => (action) => {
  const result = next(action);
  if (typeof action === 'object' && action !== null && 'type' in action && action.type === 'session/ended')
    store.dispatch(api.util.invalidateTags(['session']));
  return result;
};

export const makeStore = () =>
  configureStore({
    reducer: { [api.reducerPath]: api.reducer, live: liveReducer },
    middleware: (defaults) => defaults().concat(api.middleware, sessionEnd),
  });

type Store = ReturnType<typeof makeStore>;
export const useLive = () => useSelector((state: ReturnType<Store['getState']>) => state.live);
export const useStoreDispatch = () => useDispatch<Store['dispatch']>();
