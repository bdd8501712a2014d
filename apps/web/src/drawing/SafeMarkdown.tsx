import Markdown from 'react-markdown';

/** Headings, lists, links and code of what somebody wrote; neither HTML nor pictures of others, and links of the web only. */
export function SafeMarkdown({ text }: { text: string }) {
  return (
    <div className="space-y-1.5 text-sm [&_code]:font-mono [&_code]:text-[13px] [&_h1]:font-bold [&_h2]:font-bold [&_h3]:font-semibold [&_ol]:list-decimal [&_ol]:pl-5 [&_pre]:overflow-x-auto [&_pre]:border [&_pre]:border-hair [&_pre]:p-2 [&_ul]:list-disc [&_ul]:pl-5">
      <Markdown
        skipHtml
        disallowedElements={['img']}
        urlTransform={(url) => (/^(https?:\/\/|mailto:)/i.test(url) ? url : '')}
        components={{
          a: ({ href, children }) =>
            href ? (
              <a href={href} target="_blank" rel="noreferrer noopener" className="text-petrol underline">
                {children}
              </a>
            ) : (
              children
            ),
        }}
      >
        {text}
      </Markdown>
    </div>
  );
}
