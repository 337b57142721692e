/* One arena holds everything a rig owns. When memory runs out it jumps back to whoever opened it. */
#ifndef LANG_ARENA_H
#define LANG_ARENA_H

#include <setjmp.h>
#include <stddef.h>

typedef struct rgp_arena {
    struct arena_chunk *chunk;
    jmp_buf exhausted;
} rgp_arena;

/* Zeroed memory, aligned to 16 bytes; never NULL. */
void *arena_get(rgp_arena *arena, size_t size);

/* A copy with a 0 behind it. */
char *arena_copy(rgp_arena *arena, const char *text, size_t length);

char *arena_print(rgp_arena *arena, const char *format, ...) __attribute__((format(printf, 2, 3)));

void arena_free(rgp_arena *arena);

/* Room for one more element in an array that grows: `array`, `count` and `room` are variables. */
#define ARENA_PUSH(arena, array, count, room)                                                               \
    ((count) < (room) ? (void)0 : (void)((array) = arena_grow((arena), (array), sizeof *(array), &(room))), \
     &(array)[(count)++])
void *arena_grow(rgp_arena *arena, void *array, size_t element, unsigned *room);

#endif
