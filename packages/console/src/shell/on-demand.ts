import { createElement, type ComponentType, type ReactNode } from 'react';
import { useQuery } from '@tanstack/react-query';

/**
 * A component whose code is fetched when it is first shown. React's own way holds what has arrived back until
 * something else was shown for 300 ms.
 *
 * @param name unlike that of any other such component
 * @param meanwhile what is shown until it is there; nothing where none is given
 */
export const onDemand = <Props extends object>(
  name: string,
  load: () => Promise<ComponentType<Props>>,
  meanwhile: (props: Props) => ReactNode = () => null,
): ComponentType<Props> =>
  function Loaded(props) {
    const { data } = useQuery({
      queryKey: ['code', name],
      queryFn: async () => ({ component: await load() }),
      staleTime: Infinity,
      gcTime: Infinity,
      retry: false,
      structuralSharing: false,
      throwOnError: true,
    });
    return data ? createElement(data.component, props) : meanwhile(props);
  };
