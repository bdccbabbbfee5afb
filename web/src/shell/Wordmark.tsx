/** Three bars of time and the name. */
export const Wordmark = () => (
	<span className="flex items-center gap-2 font-[650] font-display text-[20px]">
		<span aria-hidden className="grid w-5 gap-[3px]">
			<i className="h-1 w-3 rounded-[1px] bg-moss" />
			<i className="ml-1.5 h-1 w-3.5 rounded-[1px] bg-fig" />
			<i className="ml-[3px] h-1 w-[9px] rounded-[1px] bg-moss" />
		</span>
		jembro
	</span>
);
