// A whole ring: the expectation holds. A snapped ring: it breaks.
export function Ring({ holds }: { holds: boolean }) {
  return (
    <svg
      width="18"
      height="18"
      viewBox="0 0 18 18"
      role="img"
      aria-label={holds ? "holds" : "breaks"}
      data-holds={holds}
    >
      {holds ? (
        <circle cx="9" cy="9" r="5.6" fill="none" stroke="#2a2038" strokeWidth="2.6" />
      ) : (
        <g fill="none" stroke="#7a1f2b" strokeWidth="2.6">
          <path d="M3.6 7.4A5.6 5.6 0 0 1 8 3.5" />
          <path d="M11.6 4A5.6 5.6 0 0 1 14.4 10.6" />
          <path d="M12.2 13.6A5.6 5.6 0 0 1 4.6 12.6" />
        </g>
      )}
    </svg>
  );
}

/** A ring that is only drawn in outline: it was not tried yet. */
export function OpenRing() {
  return (
    <svg width="18" height="18" viewBox="0 0 18 18" role="img" aria-label="not tried yet" data-holds="open">
      <circle cx="9" cy="9" r="5.6" fill="none" stroke="#cfc8bb" strokeWidth="2.6" />
    </svg>
  );
}
