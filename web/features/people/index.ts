export { default as LineGuests } from './LineGuests.vue';
export { default as PeoplePanel } from './PeoplePanel.vue';
export { default as SharedSessions } from './SharedSessions.vue';
export { default as SignIn } from './SignIn.vue';
export { default as WhoIsHere } from './WhoIsHere.vue';
export { peopleSheets } from './sheets.ts';
