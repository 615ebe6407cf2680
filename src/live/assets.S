/* The files of the page, as bytes between two labels each. */
    .section .rodata
.macro file label path
    .global \label
\label:
    .incbin "\path"
    .global \label\()_end
\label\()_end:
    .byte 0
.endm
    file ambulon_page_html "index.html"
    file ambulon_page_js "page.js"
    file ambulon_page_css "page.css"
    .section .note.GNU-stack, "", %progbits
