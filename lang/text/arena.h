/* One arena holds everything a rig owns. When memory runs out it jumps back to whoever opened it. */
#ifndef LANG_ARENA_H
#define LANG_ARENA_H

#include <setjmp.h>
#include <stddef.h>

typedef struct rp_arena {
    struct arena_chunk *chunk;
    jmp_buf exhausted;
} rp_arena;

/* Zeroed memory, aligned to 16 bytes; never NULL. */
void *arena_get(rp_arena *arena, size_t size);

/* A copy with a 0 behind it. */
char *arena_copy(rp_arena *arena, const char *text, size_t length);

char *arena_print(rp_arena *arena, const char *format, ...) __attribute__((format(printf, 2, 3)));

void arena_free(rp_arena *arena);

/* Room for one more element in an array that grows: `array`, `count` and `room` are variables. */
#define ARENA_PUSH(arena, array, count, room)                                                               \
    ((count) < (room) ? (void)0 : (void)((array) = arena_grow((arena), (array), sizeof *(array), &(room))), \
     &(array)[(count)++])
void *arena_grow(rp_arena *arena, void *array, size_t element, unsigned *room);

#endif
