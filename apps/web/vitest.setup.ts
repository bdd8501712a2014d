import { configure } from '@testing-library/react';

// what comes in time does not wait: room for machines that are held up
configure({ asyncUtilTimeout: 20_000 });
