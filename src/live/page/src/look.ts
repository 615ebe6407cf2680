// Paper and inks, by day and by night.

export interface Look {
  paper: string;
  light: string;
  ink: string;
  faint: string;
  chosen: string;
  other: string;
  water: string;
  barrier: string;
  walkable: string;
  good: string;
}

const day: Look = {
  paper: '#e9dfc8',
  light: '#fbf6e9',
  ink: '#322925',
  faint: '#b9ac97',
  chosen: '#a3471b',
  other: '#1a547a',
  water: '#b7c4c6',
  barrier: '#8d5a2b',
  walkable: '#d6dcc0',
  good: '#1f735e',
};

const night: Look = {
  paper: '#171d27',
  light: '#2a3443',
  ink: '#eee4cd',
  faint: '#566175',
  chosen: '#f2a65a',
  other: '#8fc7e8',
  water: '#1d3a4a',
  barrier: '#b98852',
  walkable: '#34463f',
  good: '#7fd0b4',
};

export function currentLook(): Look {
  return document.documentElement.dataset.light === 'night' ? night : day;
}
