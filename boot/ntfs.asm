; The boot sector of an NTFS volume, with its second stage: 16 sectors, the start of $Boot.
; Finds the loader in the root folder, reads it whole, and enters it.
;
; Memory map (all below 64 KiB is reached with segment 0)
;   1000-4FFF   free
;   5000-6BFF   an attribute list
;   6C00-6FFF   runs of an attribute list
;   7C00 down   stack
;   7C00-9BFF   this code; the parameters of the volume are in its first sector
;   9C00-9CFF   variables
;   A000-DFFF   runs of the file or index that is read
;   E000-EFFF   a file record (at most 4 KiB)
;   F000-FFFF   an index block (at most 4 KiB)
;   10000-1FFFF runs of $MFT, 8 bytes each, clusters and first cluster: a segment of their own
;   20000 up    the loader, up to the firmware's data below 640 KiB
; Called by  the master boot record, at 0000:7C00, with the drive in DL. Its own sector is in place, the others are read here.
; Calls      the loader, at 2000:0000, with the drive in DL; the boot sector stays at 0000:7C00.
; Survives   DL, as [drive].
; Sectors are of 512 bytes and counted from the volume's start, in 32 bits: a volume has less than 2 TiB here.
; Structures as documented by the Linux-NTFS project.

        bits 16
        cpu 386
        org 0x7C00
%include "names.inc"

MFT_SEGMENT     equ 0x1000
MFT_RUNS        equ 0x0008              ; in that segment; the other tables are in segment 0
MFT_RUNS_END    equ 0xFFF8
LIST            equ 0x5000
LIST_ROOM       equ 0x1C00
LIST_RUNS       equ 0x6C00
LIST_RUNS_ROOM  equ 0x0400
FILE_RUNS       equ 0xA000
RUNS_ROOM       equ 0x4000
RECORD          equ 0xE000
INDEX           equ 0xF000
BUFFER_ROOM     equ 0x1000
LOAD            equ 0x20000
SPARSE          equ 0xFFFFFFFF

CLUSTER_FIELD   equ 0x7C0D
MFT_CLUSTER     equ 0x7C30
RECORD_FIELD    equ 0x7C40
INDEX_FIELD     equ 0x7C44

T_LIST          equ 0x20
T_DATA          equ 0x80
T_INDEX_ROOT    equ 0x90
T_INDEX         equ 0xA0

absolute 0x9C00
cluster_sectors resd 1
record_sectors  resd 1
index_sectors   resd 1
mft_end         resw 1                  ; where the next run of $MFT goes
runs            resw 1                  ; the table that is being filled or read
runs_end        resw 1                  ; its end
runs_limit      resw 1                  ; where it must not get to
want_type       resd 1                  ; what open_stream looks for
want_i30        resw 1                  ; named $I30, or unnamed
resident        resb 1                  ; it is in the record itself
resident_at     resw 1
stream_length   resd 1                  ; in bytes
stream_valid    resd 1                  ; how many of them were ever written: the rest is zeros
stream_flags    resw 1
base_record     resd 1
list_end        resw 1
skip_base       resb 1

section .text
        jmp short start
        nop
        times 0x54 - ($ - $$) db 0      ; the volume's parameters

start:
        cli
        xor ax, ax
        mov ss, ax
        mov esp, 0x7C00                 ; the upper half too: [esp] is used
        mov ds, ax
        mov es, ax
        sti
        cld
        mov [drive], dl
        call ask_firmware
        mov eax, 1
        mov ecx, 15
        mov edi, 0x7E00
        call read_sectors
        jmp second

%include "disk.inc"

        times 0x1FE - ($ - $$) db 0
        db 0x55, 0xAA

second:
        call measure
        call open_mft
        mov eax, 5                      ; the root folder
        call find_loader
        call open_file
        call load_file
        mov dl, [drive]
        xor dh, dh
        jmp LOAD >> 4:0

; ---- Sizes, from the parameters -------------------------------------------------------------------------

; Sets cluster_sectors, record_sectors, index_sectors.
measure:
        movzx eax, byte [CLUSTER_FIELD]
        cmp al, 0x80
        jbe .small
        neg al                          ; a power of two
        mov cl, al
        mov eax, 1
        shl eax, cl
.small:
        test eax, eax
        jz damaged
        mov [cluster_sectors], eax
        mov al, [RECORD_FIELD]
        call unit
        mov [record_sectors], eax
        mov al, [INDEX_FIELD]
        call unit
        mov [index_sectors], eax
        ret

; AL: clusters, or a negative power of two in bytes. Gives sectors in EAX, 1 to 8.
unit:
        movsx ecx, al
        test ecx, ecx
        js .power
        mov eax, ecx
        mul dword [cluster_sectors]
        jmp .check
.power:
        neg ecx
        sub ecx, 9
        jb damaged
        mov eax, 1
        shl eax, cl
.check:
        test eax, eax
        jz damaged
        cmp eax, BUFFER_ROOM / 512
        ja damaged
        ret

; ---- $MFT -----------------------------------------------------------------------------------------------

; Reads the runs of $MFT: first those of its first record, then, through them, those of its extension records.
open_mft:
        mov eax, [MFT_CLUSTER]
        mul dword [cluster_sectors]
        mov ecx, [record_sectors]
        mov edi, RECORD
        call read_sectors
        mov si, RECORD
        mov ecx, [record_sectors]
        mov eax, "FILE"
        call fix_up
        mov word [mft_end], MFT_RUNS
        mov dword [want_type], T_DATA
        mov byte [want_i30], 0
        mov dword [base_record], 0
        mov word [runs], MFT_RUNS
        mov word [runs_end], MFT_RUNS
        call first_attribute
        jc damaged
        call take_part
        mov eax, T_LIST
        call first_of_type
        jc .end
        call read_list
        mov byte [skip_base], 1         ; that part is known already
        call take_listed
.end:
        ret

; Reads file record EAX into RECORD, with the fix-ups applied.
read_record:
        pushad
        push word [runs]
        push word [runs_end]
        mul dword [record_sectors]
        test edx, edx
        jnz damaged
        mov word [runs], MFT_RUNS
        push word [mft_end]
        pop word [runs_end]
        mov ecx, [record_sectors]
        mov edi, RECORD
        call read_stream
        mov si, RECORD
        mov ecx, [record_sectors]
        mov eax, "FILE"
        call fix_up
        test byte [RECORD + 0x16], 1    ; in use
        jz damaged
        pop word [runs_end]
        pop word [runs]
        popad
        ret

; Checks the mark EAX of the ECX sectors at SI, and puts the saved words back at the sectors' ends.
fix_up:
        pushad
        cmp [si], eax
        jne damaged
        movzx ebx, word [si + 4]        ; where the saved words are
        movzx edx, word [si + 6]        ; how many, with the check word
        dec dx
        cmp dx, cx
        jne damaged
        cmp bx, 0x1F0 - 2 * 8
        ja damaged
        test bl, 1
        jnz damaged
        add bx, si
        mov ax, [bx]
        lea di, [si + 0x1FE]
.sector:
        add bx, 2
        cmp [di], ax
        jne damaged
        mov dx, [bx]
        mov [di], dx
        add di, 512
        loop .sector
        popad
        ret

; ---- Attributes -----------------------------------------------------------------------------------------

; Finds the first attribute of type EAX, unnamed, in RECORD: as first_attribute.
first_of_type:
        push dword [want_type]
        push word [want_i30]
        mov [want_type], eax
        mov byte [want_i30], 0
        call first_attribute
        pop word [want_i30]
        pop dword [want_type]
        ret

; Finds the first wanted attribute in RECORD. Gives its place in SI; carry where there is none.
first_attribute:
        mov si, [RECORD + 0x14]
        cmp si, BUFFER_ROOM - 0x18
        ja damaged
        add si, RECORD

; Finds the next wanted attribute, from SI on.
this_attribute:
        push eax
        push ecx
        mov eax, [record_sectors]
        shl eax, 9
        add ax, RECORD - 8              ; the end mark may stand in the last 8 bytes
.next:
        cmp si, ax
        ja damaged
        cmp dword [si], -1
        je .none
        mov cx, ax
        sub cx, 0x18 - 8                ; an attribute needs more
        cmp si, cx
        ja damaged
        mov ecx, [want_type]
        cmp [si], ecx
        jne .skip
        call is_wanted_name
        je .found
.skip:
        call skip_attribute
        jmp .next
.none:
        stc
        jmp .end
.found:
        clc
.end:
        pop ecx
        pop eax
        ret

; Moves SI to the attribute after the one at SI.
skip_attribute:
        push ecx
        mov ecx, [si + 4]
        cmp ecx, 0x18
        jb damaged
        cmp ecx, BUFFER_ROOM
        ja damaged
        add si, cx
        jc damaged
        pop ecx
        ret

; Whether the attribute at SI has the wanted name: zero flag.
is_wanted_name:
        cmp byte [want_i30], 0
        jne .i30
        cmp byte [si + 9], 0
        ret
.i30:
        cmp byte [si + 9], 4
        jne .end
        push bx
        movzx bx, byte [si + 0xA]
        add bx, si
        cmp dword [bx], "$" | ("I" << 16)
        jne .no
        cmp dword [bx + 4], "3" | ("0" << 16)
.no:
        pop bx
.end:
        ret

; Sets FS to the segment of the table at [runs], and [runs_limit].
use_runs:
        push ax
        push dx
        mov ax, MFT_SEGMENT
        mov dx, MFT_RUNS_END
        cmp word [runs], MFT_RUNS
        je .set
        xor ax, ax
        mov dx, FILE_RUNS + RUNS_ROOM
        cmp word [runs], FILE_RUNS
        je .set
        mov dx, LIST_RUNS + LIST_RUNS_ROOM
.set:
        mov fs, ax
        mov [runs_limit], dx
        pop dx
        pop ax
        ret

; Adds the runs of the attribute at SI, which is not resident, to the table at [runs], at DI. Moves DI on.
add_runs:
        pushad
        call use_runs
        movzx ebx, word [si + 0x20]
        add bx, si                      ; the next byte of the run list
        xor edx, edx                    ; the cluster that the last run began with
.run:
        cmp bx, RECORD + BUFFER_ROOM - 1
        ja damaged
        mov al, [bx]
        test al, al
        jz .end
        inc bx
        mov ah, al
        and al, 15                      ; bytes of the length
        shr ah, 4                       ; bytes of the offset
        push ax
        xor cl, cl
        call number
        pop cx                          ; CH bytes of the offset
        test eax, eax
        jz damaged
        mov [fs:di], eax
        mov dword [fs:di + 4], SPARSE
        mov al, ch
        test al, al
        jz .stored
        mov cl, 1
        call number
        add edx, eax
        mov [fs:di + 4], edx
.stored:
        add di, 8
        cmp di, [runs_limit]
        je damaged
        jmp .run
.end:
        mov [esp], di                   ; the DI that popad gives back
        popad
        ret

; Reads AL bytes at BX as a number into EAX, its lower 32 bits; moves BX on. CL not 0: with a sign.
number:
        push ecx
        push esi
        cmp al, 8
        ja damaged
        movzx si, al
        add si, bx                      ; the end
        push si
        mov ch, 0
        test al, al
        jz .none
        test cl, cl
        jz .unsigned
        test byte [si - 1], 0x80
        jz .unsigned
        mov ch, 0xFF
.unsigned:
        movsx eax, ch                   ; all zeros or all ones
.byte:
        shl eax, 8
        dec si
        mov al, [si]
        cmp si, bx
        ja .byte
        jmp .end
.none:
        xor eax, eax
.end:
        pop bx
        pop esi
        pop ecx
        ret

; Opens the wanted attribute of record EAX: its runs go to FILE_RUNS, or it is resident. Carry where there is none.
open_stream:
        pushad
        mov [base_record], eax
        call read_record
        mov byte [resident], 0
        mov word [runs], FILE_RUNS
        mov word [runs_end], FILE_RUNS
        mov eax, T_LIST
        call first_of_type
        jnc .listed
        call first_attribute
        jc .end
        call take_part
        clc
        jmp .end
.listed:
        call read_list
        mov byte [skip_base], 0
        call take_listed
        cmp byte [resident], 0
        jne .some
        cmp word [runs_end], FILE_RUNS
        stc
        je .end
.some:
        clc
.end:
        popad
        ret

; Takes every part of the wanted attribute that the list at LIST names, in its order, which is that of the stream.
take_listed:
        mov si, LIST
.entry:
        mov ax, [list_end]
        sub ax, 0x1A
        cmp si, ax
        ja .end
        mov eax, [want_type]
        cmp [si], eax
        jne .next
        mov al, [want_i30]
        shl al, 2                       ; the name has 4 letters, or none
        cmp [si + 6], al
        jne .next
        mov eax, [si + 0x10]            ; the record that holds this part
        cmp byte [skip_base], 0
        je .read
        cmp eax, [base_record]
        je .next
.read:
        call read_record
        push si
        mov dx, [si + 0x18]             ; its number among the record's attributes
        call first_attribute
.numbered:
        jc damaged
        cmp [si + 0xE], dx
        je .part
        call skip_attribute
        call this_attribute
        jmp .numbered
.part:
        call take_part
        pop si
.next:
        mov ax, [si + 4]
        cmp ax, 0x1A
        jb damaged
        add si, ax
        jmp .entry
.end:
        ret

; Takes the attribute at SI: adds its runs, or notes where it is resident. The first part also tells length and flags.
take_part:
        cmp byte [si + 8], 0
        je .resident
        cmp dword [si + 0x10], 0        ; not the first part
        jne .runs
        mov ax, [si + 0xC]
        mov [stream_flags], ax
        mov eax, [si + 0x30]
        cmp dword [si + 0x34], 0        ; 4 GiB or more
        je .length
        mov eax, -1
.length:
        mov [stream_length], eax
        mov eax, [si + 0x38]
        cmp dword [si + 0x3C], 0
        je .valid
        mov eax, -1
.valid:
        mov [stream_valid], eax
.runs:
        mov di, [runs_end]
        call add_runs
        mov [runs_end], di
        cmp word [runs], MFT_RUNS
        jne .end
        mov [mft_end], di
.end:
        ret
.resident:
        mov byte [resident], 1
        mov ax, [si + 0xC]
        mov [stream_flags], ax
        mov eax, [si + 0x10]
        cmp eax, BUFFER_ROOM
        ja damaged
        mov [stream_length], eax
        mov [stream_valid], eax
        mov ax, [si + 0x14]
        add ax, si
        mov [resident_at], ax
        ret

; Reads the attribute list at SI to LIST.
read_list:
        pushad
        cmp byte [si + 8], 0
        jne .runs
        mov ecx, [si + 0x10]
        cmp ecx, BUFFER_ROOM
        ja damaged
        mov ax, [si + 0x14]
        add si, ax
        mov di, LIST
        add cx, di
        mov [list_end], cx
        sub cx, di
        rep movsb
        popad
        ret
.runs:
        push word [runs]
        push word [runs_end]
        mov ecx, [si + 0x30]
        cmp ecx, LIST_ROOM - 512
        ja damaged
        mov ax, LIST
        add ax, cx
        mov [list_end], ax
        mov di, LIST_RUNS
        mov [runs], di
        call add_runs
        mov [runs_end], di
        add ecx, 511
        shr ecx, 9
        xor eax, eax
        mov edi, LIST
        call read_stream
        pop word [runs_end]
        pop word [runs]
        popad
        ret

; ---- Streams --------------------------------------------------------------------------------------------

; Reads ECX sectors of the stream whose runs are at [runs], from its sector EAX on, to the linear address EDI.
read_stream:
        pushad
        mov si, [runs]
.run:
        call use_runs
        test ecx, ecx
        jz .end
        cmp si, [runs_end]
        jae damaged
        push eax
        mov eax, [fs:si]
        mul dword [cluster_sectors]
        mov ebx, eax                    ; sectors in this run
        pop eax
        test edx, edx
        jnz damaged
        cmp eax, ebx
        jae .later
        cmp dword [fs:si + 4], SPARSE
        je compressed
        sub ebx, eax                    ; those from here on
        cmp ebx, ecx
        jbe .some
        mov ebx, ecx
.some:
        push eax
        push ecx
        mov ecx, eax
        mov eax, [fs:si + 4]
        mul dword [cluster_sectors]
        test edx, edx
        jnz damaged
        add eax, ecx
        mov ecx, ebx
        call read_sectors
        pop ecx
        pop eax
        sub ecx, ebx
        shl ebx, 9
        add edi, ebx
        xor eax, eax
        add si, 8
        jmp .run
.later:
        sub eax, ebx
        add si, 8
        jmp .run
.end:
        popad
        ret

; ---- The root folder ------------------------------------------------------------------------------------

; Finds the loader in the folder whose record is EAX. Gives its record in EAX.
find_loader:
        mov dword [want_type], T_INDEX_ROOT
        mov byte [want_i30], 1
        call open_stream
        jc damaged
        cmp byte [resident], 1
        jne damaged
        mov si, [resident_at]
        add si, 0x10                    ; past the root's own header, at the node header
        mov di, RECORD + BUFFER_ROOM
        call search_node
        jnc .found
        cmp edx, -1
        je not_found
        push edx
        mov eax, [base_record]
        mov dword [want_type], T_INDEX
        call open_stream
        jc damaged
        cmp byte [resident], 0
        jne damaged
        pop edx
        mov bp, 32                      ; no folder is deeper
.descend:
        dec bp
        jz damaged
        call read_node
        mov si, INDEX + 0x18
        mov di, INDEX + BUFFER_ROOM - 1
        call search_node
        jnc .found
        cmp edx, -1
        jne .descend
        jmp not_found
.found:
        ret

; Reads the index block numbered EDX into INDEX. The number counts clusters, or sectors where clusters are larger than blocks.
read_node:
        pushad
        mov eax, [cluster_sectors]
        cmp eax, [index_sectors]
        jbe .clusters
        mov eax, 1
.clusters:
        mul edx
        test edx, edx
        jnz damaged
        mov ecx, [index_sectors]
        mov edi, INDEX
        call read_stream
        mov si, INDEX
        mov eax, "INDX"
        call fix_up
        popad
        ret

; Searches the node whose header is at SI, inside a buffer that ends at DI, for the loader's name.
; Found: carry clear, EAX its record. Else carry, EDX the number of the block to go on in, or -1.
search_node:
        mov eax, [si]
        cmp eax, BUFFER_ROOM
        jae damaged
        add si, ax
.entry:
        mov ax, di
        sub ax, 0xF                     ; the last entry has 0x10 bytes, up to the very end
        cmp si, ax
        ja damaged
        mov edx, -1
        movzx ecx, word [si + 8]        ; length of the entry
        cmp cx, 0x10
        jb damaged
        test byte [si + 0xC], 1         ; the node's child, if it has one
        jz .no_child
        movzx ebx, cx
        add bx, si
        mov edx, [bx - 8]
.no_child:
        test byte [si + 0xC], 2         ; the last entry has no name
        jnz .not_here
        call compare_name
        je .found
        jb .not_here
        add si, cx
        jc damaged
        jmp .entry
.not_here:
        stc
        ret
.found:
        mov eax, [si]
        clc
        ret

; Compares the loader's name with that of the entry at SI: flags as after CMP loader, entry.
; Case is ignored for A to Z, which is all that the loader's name has.
compare_name:
        pushad
        movzx cx, byte [si + 0x50]
        lea di, [si + 0x52]
        mov si, loader_name
        mov bx, LOADER_LENGTH
.letter:
        test cx, cx
        jz .entry_ends
        test bx, bx
        jz .loader_ends
        xor ah, ah
        lodsb
        mov dx, [di]
        cmp dx, "a"
        jb .upper
        cmp dx, "z"
        ja .upper
        sub dx, 32
.upper:
        add di, 2
        dec cx
        dec bx
        cmp ax, dx
        je .letter
        popad
        ret
.entry_ends:
        cmp bx, 0                       ; equal, or the loader's name goes on and is above
        popad
        ret
.loader_ends:
        cmp bx, cx                      ; 0 against a rest: below
        popad
        ret

; ---- The loader -----------------------------------------------------------------------------------------

; Opens the loader, whose record is EAX.
open_file:
        mov dword [want_type], T_DATA
        mov byte [want_i30], 0
        call open_stream
        jc not_found
        test word [stream_flags], 0xC0FF ; sparse, encrypted, compressed
        jnz compressed
        cmp dword [stream_length], 0
        je bad_size
        ret

; Reads the loader to LOAD.
load_file:
        int 0x12                        ; KiB below the firmware's data
        movzx eax, ax
        shl eax, 10
        sub eax, LOAD
        cmp [stream_length], eax
        ja bad_size
        cmp byte [resident], 0
        jne .resident
        mov ecx, [stream_length]
        add ecx, 511
        shr ecx, 9
        xor eax, eax
        mov edi, LOAD
        call read_stream
        mov ebx, [stream_valid]         ; behind that stands what was on the disk before
.zero:
        cmp ebx, [stream_length]
        jae .end
        lea eax, [ebx + LOAD]
        mov di, ax
        and di, 15
        shr eax, 4
        mov es, ax
        mov byte [es:di], 0
        inc ebx
        jmp .zero
.end:
        push ds
        pop es
        ret
.resident:
        mov si, [resident_at]
        mov cx, [stream_length]
        push es
        mov ax, LOAD >> 4
        mov es, ax
        xor di, di
        rep movsb
        pop es
        ret

; ---- Ends -----------------------------------------------------------------------------------------------

damaged:
        mov si, line_damaged
        jmp stop_line
not_found:
        mov si, line_missing
        jmp stop_line
compressed:
        mov si, line_compressed
        jmp stop_line
bad_size:
        mov si, line_size
        jmp stop_line

loader_name     db LOADER
line_damaged    db "keel: the file system is damaged", 0
line_missing    db "keel: ", LOADER, " not found", 0
line_compressed db "keel: ", LOADER, " is compressed", 0
line_size       db "keel: ", LOADER, " is too large or empty", 0

        times 16 * 512 - ($ - $$) db 0
