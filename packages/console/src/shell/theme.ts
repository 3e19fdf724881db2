import { useEffect, useState } from 'react';
import { theme as antTheme, type ThemeConfig } from 'antd';

export type Choice = 'system' | 'light' | 'dark';

export interface Theme {
  readonly choice: Choice;
  readonly isDark: boolean;
  readonly antd: ThemeConfig;
  choose(choice: Choice): void;
}

const KEY = 'kleidon.theme';
const DARK = '(prefers-color-scheme: dark)';

/** Light or dark: what the system says, unless someone chose otherwise. */
export function useTheme(): Theme {
  const [choice, setChoice] = useState<Choice>(
    () => (localStorage.getItem(KEY) as Choice | null) ?? 'system',
  );
  const [systemIsDark, setSystemIsDark] = useState(() => matchMedia(DARK).matches);

  useEffect(() => {
    const query = matchMedia(DARK);
    const follow = (): void => setSystemIsDark(query.matches);
    query.addEventListener('change', follow);
    return () => query.removeEventListener('change', follow);
  }, []);

  const isDark = choice === 'system' ? systemIsDark : choice === 'dark';
  useEffect(() => {
    document.documentElement.dataset['theme'] = isDark ? 'dark' : 'light';
  }, [isDark]);

  return {
    choice,
    isDark,
    antd: {
      algorithm: [
        isDark ? antTheme.darkAlgorithm : antTheme.defaultAlgorithm,
        antTheme.compactAlgorithm,
      ],
      // White on the light blue of the dark theme could not be read.
      components: { Button: { primaryColor: isDark ? '#0e1d27' : '#ffffff' } },
      token: {
        colorPrimary: isDark ? '#6aa5c9' : '#1f5f85',
        colorLink: isDark ? '#8cc0e0' : '#1f5f85',
        // Those that are made of it are too pale to be read under the pointer.
        colorLinkHover: isDark ? '#b4d8ee' : '#174863',
        colorLinkActive: isDark ? '#b4d8ee' : '#174863',
        colorTextPlaceholder: isDark ? '#8f9aa3' : '#66717a',
        fontSize: 15,
        borderRadius: 3,
        motion: false,
      },
    },
    choose: (next) => {
      localStorage.setItem(KEY, next);
      setChoice(next);
    },
  };
}
