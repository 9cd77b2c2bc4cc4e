/** Our mark: a string plucked into two ears, and the sound of it. */
export function Mark() {
  return (
    <svg
      width="26"
      height="26"
      viewBox="0 0 32 32"
      fill="none"
      stroke="currentColor"
      strokeWidth="3"
      strokeLinecap="round"
      aria-hidden
    >
      <path d="M4 26H28" />
      <path d="M7 26C7 17 11 15 15 15C13 11 12 6 15 4" />
      <path d="M15 15C19 13 20 8 23 5" />
      <circle cx="24" cy="20" r="2" className="fill-sound" stroke="none" />
    </svg>
  );
}
