import { screen } from '../platform/screen.tsx'

export const Arrange = screen(() => import('../openings/arrange.tsx').then((m) => m.Arrange))
export const MyTime = screen(() => import('../time/my-time.tsx').then((m) => m.MyTime))
export const Places = screen(() => import('../places/places-screen.tsx').then((m) => m.PlacesScreen))
export const PlacePage = screen(() => import('../places/place-page.tsx').then((m) => m.PlacePage))
export const People = screen(() => import('../directory/directory.tsx').then((m) => m.People))
export const Settings = screen(() => import('../settings/settings-screen.tsx').then((m) => m.Settings))
export const MeetingPage = screen(() => import('./meeting-page.tsx').then((m) => m.MeetingPage))
export const PollPage = screen(() => import('../polls/poll-page.tsx').then((m) => m.PollPage))
export const GuestPage = screen(() => import('../invitations/guest-page.tsx').then((m) => m.GuestPage))
